import type { ReactNode } from "react";

/** A titled block of a panel. */
export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="border-t border-line py-2 first:border-t-0">
      <h3 className="pb-1 text-[12px] font-semibold tracking-wide text-quiet">{title}</h3>
      {children}
    </section>
  );
}

export function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex items-baseline justify-between gap-3 py-0.5">
      <span className="text-quiet">{label}</span>
      <span className="text-right font-semibold">{children}</span>
    </div>
  );
}
