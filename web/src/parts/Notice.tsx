// A sentence about what just happened, at the foot of the page.
import { X } from "lucide-react";
import { useEffect } from "react";
import { useProject } from "../state/project";

export function Notice() {
  const { notice, hush } = useProject();
  useEffect(() => {
    if (notice?.kind !== "info") return;
    const timer = setTimeout(hush, 8000);
    return () => clearTimeout(timer);
  }, [notice, hush]);
  if (!notice) return null;
  return (
    <div
      role={notice.kind === "error" ? "alert" : "status"}
      className={`fixed bottom-[72px] left-1/2 z-50 flex max-w-[680px] -translate-x-1/2 items-start gap-3 rounded-lg border bg-base-100 px-4 py-2.5 text-[14px] shadow-lg ${
        notice.kind === "error" ? "border-error" : "border-line"
      }`}
    >
      <span>{notice.text}</span>
      {notice.action && (
        <button
          type="button"
          className="press h-7 shrink-0 px-2"
          onClick={() => {
            notice.action?.run();
            hush();
          }}
        >
          {notice.action.text}
        </button>
      )}
      <button
        type="button"
        className="cursor-pointer p-0.5"
        aria-label="Dismiss"
        title="Dismiss"
        onClick={hush}
      >
        <X size={15} />
      </button>
    </div>
  );
}
