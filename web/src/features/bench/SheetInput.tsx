import { useState } from "react";

import type { Sheet } from "@/api/client";
import { useSheet } from "@/api/hooks";
import { Button } from "@/ui/Button";
import { Refusal } from "@/ui/Refusal";

type Props = { hint: string; onSheet: (sheet: Sheet) => void };

/** Where rows of a sheet are pasted, or read from a CSV or XLSX file. */
export function SheetInput({ hint, onSheet }: Props) {
  const [text, setText] = useState("");
  const sheet = useSheet();
  const read = (content: Blob, name: string) => sheet.mutate({ content, name }, { onSuccess: onSheet });
  return (
    <div>
      <label className="block text-[12.5px] text-quiet">
        {hint}
        <textarea
          aria-label="Rows of a sheet"
          rows={4}
          value={text}
          onChange={(e) => setText(e.target.value)}
          className="mt-1 block w-full rounded border border-line bg-white px-2 py-1 font-mono text-[12.5px] text-ink"
        />
      </label>
      <div className="flex items-center gap-2 pt-1">
        <Button disabled={!text.trim() || sheet.isPending} onClick={() => read(new Blob([text]), "what was pasted")}>
          Read the rows
        </Button>
        <label className="cursor-pointer text-verdigris underline focus-within:outline-2">
          or a CSV or XLSX file
          <input
            type="file"
            accept=".csv,.tsv,.txt,.xlsx"
            aria-label="CSV or XLSX file"
            className="sr-only"
            onChange={(e) => {
              const file = e.target.files?.[0];
              if (file) read(file, file.name);
            }}
          />
        </label>
      </div>
      <Refusal of={sheet.error} />
    </div>
  );
}
