// How a family of drums looks, the same on every screen: a hue and a glyph.
import type { ReactNode } from "react";

const hues: Record<string, string> = {
  kick: "--kick",
  snare: "--snare",
  clap: "--clap",
  rim: "--rim",
  hat_closed: "--hat",
  hat_open: "--open",
  shaker: "--hat",
  tambourine: "--open",
  ride: "--ride",
  crash: "--ride",
  tom: "--tom",
  conga: "--tom",
  "808": "--bass",
};

export const hue = (family: string) => `var(${hues[family] ?? "--perc"})`;

const names: Record<string, string> = {
  kick: "Kick",
  snare: "Snare",
  clap: "Clap",
  rim: "Rim",
  hat_closed: "Hat",
  hat_open: "Open hat",
  shaker: "Shaker",
  tambourine: "Tambourine",
  ride: "Ride",
  crash: "Crash",
  tom: "Tom",
  conga: "Conga",
  cowbell: "Cowbell",
  perc: "Percussion",
  "808": "808",
};

export const familyName = (family: string) => names[family] ?? family;

const stroke = { fill: "none", stroke: "currentColor", strokeWidth: 2.6, strokeLinecap: "round" } as const;

const shapes: Record<string, ReactNode> = {
  kick: <circle cx="9" cy="9" r="6.2" fill="currentColor" />,
  snare: <rect x="2" y="5.5" width="14" height="7" rx="2" fill="currentColor" />,
  clap: <path d="M3 14 L6 4 M8 14 L11 4 M13 14 L16 4" {...stroke} />,
  rim: <circle cx="9" cy="9" r="5.5" {...stroke} />,
  hat_closed: <path d="M2.5 7 H15.5 M2.5 11.5 H15.5" {...stroke} />,
  hat_open: <path d="M2.5 6.5 L15.5 3.5 M2.5 11.5 L15.5 14.5" {...stroke} />,
  ride: <path d="M2.5 9 H15.5 M9 9 V15" {...stroke} />,
  crash: <path d="M3 3 L15 15 M15 3 L3 15" {...stroke} />,
  tom: <path d="M3 5 H15 L13 14 H5 Z" fill="currentColor" />,
  shaker: <path d="M4 9 H4.1 M9 5 H9.1 M14 9 H14.1 M9 13 H9.1" {...stroke} />,
  "808": <path d="M1.5 9 C4 1.5 7 1.5 9 9 S14 16.5 16.5 9" {...stroke} />,
};

export function Glyph({ family, size = 18 }: { family: string; size?: number }) {
  return (
    <svg
      viewBox="0 0 18 18"
      width={size}
      height={size}
      className="shrink-0"
      style={{ color: hue(family) }}
      aria-hidden="true"
    >
      {shapes[family] ?? <path d="M9 2 L16 9 L9 16 L2 9 Z" fill="currentColor" />}
    </svg>
  );
}
