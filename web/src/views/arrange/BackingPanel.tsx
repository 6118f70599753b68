// A backing: where it is, how it comes to the tempo, what is taken out of it, and how far
// the drums turn it down; of a stand-in, what it plays.
import type { Document } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { num } from "../../parts/format";
import { ParamField } from "../../parts/ParamField";
import { TextBox } from "../../parts/TextBox";
import { valueIn } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useBackings, useInfo, useRoom } from "../../state/queries";
import { type Facts, placeText } from "../../time/piece";
import { Line } from "./Line";
import { useArrange } from "./store";

export function BackingPanel({ doc, facts }: { doc: Document; facts: Facts }) {
  const edit = useProject((s) => s.edit);
  const chosen = useArrange();
  const tables = useInfo().data?.tables;
  const of = doc.arrangement.backings.find((b) => b.id === chosen.backing);
  const played = useBackings().data?.backings.find((b) => b.id === chosen.backing);
  const room = useRoom(facts.seconds <= 300).data;
  const against = room?.against.find((a) => a.backing === chosen.backing);
  if (!of || !tables) return <p className="text-sm text-muted">No backing is chosen.</p>;
  const at = `backing/${of.id}`;
  const set = (fields: object) => edit([{ op: "backing.set", backing: of.id, ...fields } as never]);
  const own = of.stand_in
    ? ["level_db", "fade_in_s", "fade_out_s", "duck_db", "mute"]
    : tables.backing.map((p) => p.id).filter((id) => id !== "tempo_bpm" && id !== "first_beat_s");
  return (
    <>
      <TextBox
        label="Name of the backing"
        value={of.name}
        width={220}
        className="font-display text-lg! font-semibold"
        onCommit={(name) => name !== "" && set({ name })}
      />
      {played?.problem && <p className="text-xs text-error">{played.problem}</p>}
      {played && !played.ready && !played.problem && (
        <p className="text-xs text-muted" role="status">
          It is being prepared; the drums play meanwhile.
        </p>
      )}
      <Line label="Begins at">
        <span className="num">{placeText(facts, of.at)}</span>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          onClick={() => set({ at: Math.round(chosen.cursor) })}
        >
          to the cursor
        </button>
      </Line>
      {!of.stand_in && (
        <>
          <Line label="Its tempo" hint="Found when it came in; type another one">
            <TextBox
              label="Tempo of the recording"
              value={of.tempo_bpm ? num(of.tempo_bpm, 2) : ""}
              placeholder="not known"
              width={72}
              onCommit={(t) =>
                edit([{ op: "number.set", at: `${at}/tempo_bpm`, value: Number(t.replace(",", ".")) || 0 }])
              }
            />
            <span className="text-xs text-muted">BPM</span>
            {[0.5, 2].map((f) => (
              <button
                key={f}
                type="button"
                className="press h-6 px-1.5 text-2xs"
                title={f === 2 ? "Twice as fast" : "Half as fast"}
                disabled={!of.tempo_bpm}
                onClick={() => edit([{ op: "number.set", at: `${at}/tempo_bpm`, value: of.tempo_bpm * f }])}
              >
                {f === 2 ? "×2" : "½"}
              </button>
            ))}
          </Line>
          <Line label="First beat" hint="Where in the recording the place lies at which it begins">
            <TextBox
              label="First beat of the recording"
              value={num(of.first_beat_s, 3)}
              width={72}
              onCommit={(t) =>
                edit([
                  { op: "number.set", at: `${at}/first_beat_s`, value: Number(t.replace(",", ".")) || 0 },
                ])
              }
            />
            <span className="text-xs text-muted">s</span>
          </Line>
          <Choice
            label="How it comes to the tempo"
            value={of.fit}
            options={[
              ["own", "Own speed", "As it was recorded"],
              ["stretched", "Stretch", "In the piece's tempo, with its pitch kept"],
              ["tape", "Tape", "In the piece's tempo, higher or lower as a tape is"],
            ]}
            disabled={(f) => f !== "own" && !of.tempo_bpm}
            onChange={(fit) => set({ fit })}
          />
        </>
      )}
      {tables.backing
        .filter((p) => own.includes(p.id))
        .map((p) => (
          <ParamField key={p.id} param={p} at={at} value={valueIn(of, p.id)} />
        ))}
      {against && (
        <p className="text-xs text-muted">
          The drums are <span className="num">{num(Math.abs(against.drums_above_lu))} LU</span>{" "}
          {against.drums_above_lu >= 0 ? "above" : "below"} it
          {room?.reference_drums_above_lu != null && (
            <>
              , in the reference{" "}
              <span className="num">{num(Math.abs(room.reference_drums_above_lu))} LU</span>{" "}
              {room.reference_drums_above_lu >= 0 ? "above" : "below"} the rest
            </>
          )}
          .
        </p>
      )}
      {of.duck_db > 0 && (
        <Line label="Ducked by">
          <select
            className="press h-7 min-w-0 grow px-1.5 text-xs"
            aria-label="Ducked by"
            value={of.duck_by}
            onChange={(e) => set({ duck_by: e.target.value })}
          >
            <option value="">all drums</option>
            {doc.kit.voices.map((v) => (
              <option key={v.id} value={v.id}>
                {v.name}
              </option>
            ))}
          </select>
        </Line>
      )}
      {of.stand_in && (
        <div className="border-t border-line pt-1.5">
          <Line label="Chords" hint="Bars part at |; a dot holds the chord before">
            <TextBox
              label="Chords of the stand-in"
              value={of.stand_in.progression}
              placeholder={`those of ${doc.key || "C"}`}
              width={140}
              onCommit={(progression) => set({ progression })}
            />
          </Line>
          {tables.stand_in.map((p) => (
            <ParamField key={p.id} param={p} at={at} value={valueIn(of.stand_in, p.id)} />
          ))}
        </div>
      )}
      <div className="border-t border-line pt-2">
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          onClick={() => {
            edit([{ op: "backing.remove", backing: of.id }]);
            chosen.set({ panel: "section", backing: "" });
          }}
        >
          Remove
        </button>
      </div>
    </>
  );
}
