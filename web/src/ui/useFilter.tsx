import { type ReactNode, useState } from "react";

/** Lists of fewer entries are seen at a glance. */
const LONG = 8;

/** Whether every word of what is sought is in a text. */
export const hasWords = (text: string, sought: string) =>
  sought
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.toLowerCase().includes(word));

/** What is left of a list by words, and where these are typed; nothing is typed where the list is short. */
export function useFilter<T>(items: readonly T[], textOf: (item: T) => string, label: string): [T[], ReactNode] {
  const [sought, setSought] = useState("");
  const isLong = items.length > LONG;
  const left = isLong ? items.filter((item) => hasWords(textOf(item), sought)) : [...items];
  const entry = isLong && (
    <input
      type="search"
      aria-label={label}
      placeholder="Find"
      title={`${left.length} of ${items.length} shown`}
      value={sought}
      onChange={(e) => setSought(e.target.value)}
      className="w-full min-w-0 rounded border border-line bg-white px-2 py-0.5 text-[12.5px]"
    />
  );
  return [left, entry];
}
