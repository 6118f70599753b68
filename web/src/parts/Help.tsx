// The list of keys, on "?".
import { useEffect, useRef } from "react";

const keys: [string, [string, string][]][] = [
  [
    "Everywhere",
    [
      ["Space", "Play and stop"],
      ["M", "Mine, reference, both"],
      ["1 to 5", "Reference, Sounds, Groove, Compare, Export"],
      ["Ctrl Z, Ctrl Shift Z", "Undo, redo"],
      ["N", "Day and night"],
      ["Escape", "Take back the drag under way"],
      ["?", "This list"],
    ],
  ],
  [
    "On a row of the groove",
    [
      ["← →", "Move the cursor by a step; with Shift, select"],
      ["Enter", "Place or remove a hit"],
      ["↑ ↓", "Velocity of the selection, by 5; with Shift, by 1"],
      ["Alt ← →", "Nudge by 1 ms; with Shift, by 0.2 ms"],
      ["Ctrl ← →", "Move the selection by a step"],
      ["Ctrl C, Ctrl V, Ctrl D", "Copy, paste at the cursor, repeat one bar later"],
      ["Delete", "Remove the selection"],
      ["A", "Select the whole row"],
      ["P", "Play the voice"],
    ],
  ],
  [
    "On a row of the reference",
    [
      ["← →", "The hit before, the next hit"],
      ["↑ ↓", "Weigh the hit, by 5; with Shift, by 1"],
      ["Alt ← →", "Move the hit by 1 ms; with Shift, by 0.2 ms"],
      ["X, Delete", "Drop the hit"],
      ["Double click", "Add a hit"],
      [", and .", "Earlier and later bars"],
      ["L", "Listen closely to the bars on show"],
      ["T", "Tap the tempo"],
    ],
  ],
];

export function Help({ onClose }: { onClose: () => void }) {
  const box = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    box.current?.showModal();
  }, []);
  return (
    <dialog
      ref={box}
      onClose={onClose}
      className="m-auto w-[760px] max-w-[92vw] rounded-xl border border-line bg-base-100 p-6 text-base-content backdrop:bg-black/40"
      aria-label="Keys"
    >
      <div className="mb-4 flex items-center">
        <h2 className="grow text-xl">Keys</h2>
        <button type="button" className="press" onClick={() => box.current?.close()}>
          Close
        </button>
      </div>
      <div className="grid grid-cols-2 gap-x-8 gap-y-5">
        {keys.map(([title, list]) => (
          <section key={title}>
            <h3 className="mb-1.5 text-[15px]">{title}</h3>
            <dl className="grid grid-cols-[130px_1fr] gap-y-1 text-[13px]">
              {list.map(([k, what]) => (
                <div key={k} className="contents">
                  <dt className="num text-[12px] text-muted">{k}</dt>
                  <dd>{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </dialog>
  );
}
