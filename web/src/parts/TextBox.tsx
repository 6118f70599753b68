// A text that is edited in place.
import { useState } from "react";

export function TextBox(p: {
  label: string;
  value: string;
  width: number;
  onCommit: (text: string) => void;
  className?: string;
  placeholder?: string;
}) {
  const [text, setText] = useState<string | null>(null);
  const commit = () => {
    if (text !== null && text.trim() !== p.value) p.onCommit(text.trim());
    setText(null);
  };
  return (
    <input
      aria-label={p.label}
      placeholder={p.placeholder}
      className={`rounded border border-transparent bg-transparent px-1 text-sm hover:border-line focus:border-line focus:bg-base-100 ${p.className ?? ""}`}
      style={{ width: p.width }}
      value={text ?? p.value}
      onChange={(e) => setText(e.target.value)}
      onBlur={commit}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setText(null);
      }}
    />
  );
}
