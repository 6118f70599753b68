// A sentence about what just happened, below the stops of the work, where it covers
// nothing that one works on.
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
      className={`fixed bottom-[68px] left-2 z-50 w-[150px] rounded-lg border bg-base-100 px-2.5 py-2 text-sm leading-snug shadow-lg ${
        notice.kind === "error" ? "border-error" : "border-line"
      }`}
    >
      <button
        type="button"
        className="float-right ml-1 cursor-pointer p-0.5"
        aria-label="Dismiss"
        title="Dismiss"
        onClick={hush}
      >
        <X size={15} />
      </button>
      <span className="break-words">{notice.text}</span>
      {notice.action && (
        <button
          type="button"
          className="press mt-1.5 h-auto px-2 py-1 text-xs"
          onClick={() => {
            notice.action?.run();
            hush();
          }}
        >
          {notice.action.text}
        </button>
      )}
    </div>
  );
}
