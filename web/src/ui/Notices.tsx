import { useEffect } from "react";

import { type Notice, useNotices } from "./notices";

/** Milliseconds that a notice of something done stays; refusals stay until they are closed. */
const STAYS = 8000;

/** Notices at the foot of the page, the latest below. */
export function Notices() {
  const { notices } = useNotices();
  return (
    <div
      role="region"
      aria-label="Notices"
      aria-live="polite"
      className="pointer-events-none fixed inset-x-0 bottom-4 z-50 flex flex-col items-center gap-2"
    >
      {notices.map((notice) => (
        <OneNotice key={notice.id} notice={notice} />
      ))}
    </div>
  );
}

function OneNotice({ notice }: { notice: Notice }) {
  const { drop } = useNotices();
  useEffect(() => {
    if (notice.tone === "bad") return;
    const timer = window.setTimeout(() => drop(notice.id), STAYS);
    return () => window.clearTimeout(timer);
  }, [notice, drop]);
  return (
    <div
      role={notice.tone === "bad" ? "alert" : "status"}
      className={`pointer-events-auto flex max-w-[640px] items-start gap-3 rounded-md border-l-4 bg-ink px-4 py-2 text-white shadow-lg ${notice.tone === "bad" ? "border-vermilion" : "border-verdigris"}`}
    >
      <p>
        {notice.text} {notice.hint && <span className="text-line">{notice.hint}</span>}
      </p>
      {notice.undo && (
        <button
          type="button"
          className="font-semibold underline"
          onClick={() => {
            notice.undo?.();
            drop(notice.id);
          }}
        >
          Undo
        </button>
      )}
      <button type="button" aria-label="Close" className="px-1" onClick={() => drop(notice.id)}>
        ×
      </button>
    </div>
  );
}
