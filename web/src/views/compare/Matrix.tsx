// Rows by voice, columns by what is measured: each cell the difference and where it lies
// against what nobody would hear.
import type { Row } from "../../api/client";
import { Glyph } from "../../parts/family";
import { type Column, differenceText, spoken } from "./cells";

type Family = NonNullable<Row["family"]>;

/** A row of the matrix: a family's voice, or a bus. */
export interface Line {
  /** A family, or "bus:" with a bus. */
  id: string;
  name: string;
  family?: Family;
}

const of = (line: Line, r: Row) => (line.family ? r.family === line.family : r.voice === line.id);

export function Matrix(p: {
  columns: Column[];
  rows: Row[];
  lines: Line[];
  chosen: string;
  onChoose: (row: Row) => void;
  onApply: (ids: string[]) => void;
  busy: boolean;
}) {
  const at = (line: Line, c: Column) => p.rows.find((r) => r.column === c.id && of(line, r));
  const outside = (rows: Row[]) => rows.filter((r) => r.inside === false && r.act !== "").map((r) => r.id);
  return (
    <table className="w-full table-fixed border-separate border-spacing-y-1" onKeyDown={walk}>
      <thead>
        <tr>
          <td className="w-[116px]" />
          {p.columns.map((c) => {
            const ids = outside(p.rows.filter((r) => r.column === c.id));
            return (
              <th
                key={c.id}
                scope="col"
                className="px-0.5 align-bottom font-normal"
                title={`${c.hint}. Tolerance: ${c.source}.`}
              >
                <span className="block text-sm font-semibold leading-tight">{c.label}</span>
                <span className="num block text-2xs text-muted">{c.unit || " "}</span>
                <ApplyAll ids={ids} busy={p.busy} what={c.label} onApply={p.onApply} />
              </th>
            );
          })}
        </tr>
      </thead>
      <tbody>
        {p.lines.map((line) => {
          const ids = outside(p.rows.filter((r) => of(line, r) && p.columns.some((c) => c.id === r.column)));
          return (
            <tr key={line.id} data-family={line.id}>
              <th scope="row" className="rounded-l-lg bg-base-200 px-2 text-left text-sm font-semibold">
                <span className="flex items-center gap-2">
                  {line.family && <Glyph family={line.family} size={15} />}
                  <span className="min-w-0 truncate">{line.name}</span>
                </span>
                <ApplyAll ids={ids} busy={p.busy} what={line.name} onApply={p.onApply} />
              </th>
              {p.columns.map((c, i) => {
                const r = at(line, c);
                return (
                  <td
                    key={c.id}
                    className={`bg-base-200 p-0.5 ${i === p.columns.length - 1 ? "rounded-r-lg" : ""}`}
                  >
                    {r ? <Cell row={r} column={c} chosen={p.chosen === r.id} onChoose={p.onChoose} /> : null}
                  </td>
                );
              })}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

const ways: Record<string, [number, number]> = {
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
};

/** Arrow keys go to the next cell that way, and choose it. */
function walk(e: React.KeyboardEvent<HTMLTableElement>) {
  const way = ways[e.key];
  const cell = (e.target as HTMLElement).closest<HTMLTableCellElement>("td");
  if (!way || !cell) return;
  e.preventDefault();
  const rows = e.currentTarget.tBodies[0]?.rows ?? [];
  let row = (cell.parentElement as HTMLTableRowElement).sectionRowIndex;
  let column = cell.cellIndex;
  for (;;) {
    row += way[0];
    column += way[1];
    const next = rows[row]?.cells[column];
    if (!next) return;
    const button = next.querySelector<HTMLButtonElement>("button[data-row]");
    if (button) {
      button.focus();
      button.click();
      return;
    }
  }
}

function ApplyAll(p: { ids: string[]; busy: boolean; what: string; onApply: (ids: string[]) => void }) {
  if (p.ids.length < 2) return null;
  return (
    <button
      type="button"
      className="mx-auto block cursor-pointer text-2xs font-normal text-primary underline-offset-2 hover:underline disabled:cursor-default disabled:opacity-45"
      disabled={p.busy}
      aria-label={`Apply all of ${p.what}`}
      onClick={() => p.onApply(p.ids)}
    >
      apply {p.ids.length}
    </button>
  );
}

/** One cell: the difference over a line whose shaded middle is the tolerance. */
export function Cell(p: { row: Row; column: Column; chosen: boolean; onChoose: (row: Row) => void }) {
  const { row, column } = p;
  const out = row.inside === false;
  return (
    <button
      type="button"
      data-row={row.id}
      aria-label={spoken(row, column)}
      aria-pressed={p.chosen}
      title={row.difference === null ? `Cannot be measured: ${row.why}` : column.hint}
      onClick={() => p.onChoose(row)}
      className={`block h-[42px] w-full cursor-pointer rounded-md border px-0.5 text-center ${
        out ? "border-error" : "border-transparent"
      } ${p.chosen ? "bg-row" : "hover:bg-base-300"}`}
    >
      <span
        className={`num block text-xs leading-snug ${out ? "font-bold text-error" : row.difference === null ? "text-muted" : ""}`}
      >
        {differenceText(row, column)}
      </span>
      <Gauge row={row} />
    </button>
  );
}

/** Off the scale is drawn at its end. */
const scale = 3;

function Gauge({ row }: { row: Row }) {
  const w = 64;
  if (row.difference === null) return <span className="block h-[14px]" />;
  const limit = row.tolerance + row.within || 1;
  const reach = w / 2 - 5;
  const part = Math.max(Math.min(row.difference / (limit * scale), 1), -1);
  const x = w / 2 + part * reach;
  return (
    <svg viewBox={`0 0 ${w} 14`} height={14} className="mx-auto block w-full max-w-[64px]" aria-hidden="true">
      <line x1={2} x2={w - 2} y1={7} y2={7} stroke="var(--line)" strokeWidth={1.5} />
      <rect
        x={w / 2 - reach / scale}
        y={4}
        width={(2 * reach) / scale}
        height={6}
        rx={3}
        fill="var(--line)"
      />
      <line x1={w / 2} x2={w / 2} y1={1} y2={13} stroke="var(--ref)" strokeWidth={1.5} />
      {row.inside ? (
        <circle cx={x} cy={7} r={3.5} fill="var(--color-success)" />
      ) : (
        <rect x={x - 3.5} y={3.5} width={7} height={7} fill="var(--color-error)" />
      )}
    </svg>
  );
}
