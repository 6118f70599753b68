// The list of keys, on "?".
import { useEffect, useRef, useState } from "react";
import { gestures, type Key, keyList, type Place, placeNames } from "../keys/list";
import { singleKeys } from "../keys/useKeys";

const places = Object.keys(keyList) as Place[];

export function Help({ onClose }: { onClose: () => void }) {
  const box = useRef<HTMLDialogElement>(null);
  const [single, setSingle] = useState(singleKeys.on);
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
        <h2 className="grow text-2xl">Keys</h2>
        <label
          className="mr-4 flex cursor-pointer items-center gap-1.5 text-sm"
          title="Switched off, only keys with Ctrl, Space and those of what has the focus work"
        >
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={single}
            onChange={(e) => {
              singleKeys.set(e.target.checked);
              setSingle(e.target.checked);
            }}
          />
          keys of a single letter or sign
        </label>
        <button type="button" className="press" onClick={() => box.current?.close()}>
          Close
        </button>
      </div>
      <div className="columns-2 gap-x-8 [&>section]:break-inside-avoid">
        {places.map((place) => (
          <section key={place} className={placeNames[place] ? "mt-4 first:mt-0" : "mt-1"}>
            {placeNames[place] && <h3 className="mb-1.5 text-lg">{placeNames[place]}</h3>}
            <dl className="grid grid-cols-[110px_1fr] gap-y-1 text-sm">
              {[
                ...Object.values<Key>(keyList[place]).map((k) => [k.shown, k.does]),
                ...(gestures[place] ?? []),
              ].map(([k, what]) => (
                <div key={k} className="contents">
                  <dt className="num text-xs text-muted">{k}</dt>
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
