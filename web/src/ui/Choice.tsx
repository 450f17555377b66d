import { ToggleGroup } from "radix-ui";

type Props<T extends string> = {
  label: string;
  value: T;
  options: readonly { value: T; label: string }[];
  onChange: (value: T) => void;
};

/** One of a few, shown side by side. */
export function Choice<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <div className="flex items-center justify-between gap-2 py-1">
      <span>{label}</span>
      <ToggleGroup.Root
        type="single"
        value={value}
        aria-label={label}
        onValueChange={(next) => next && onChange(next as T)}
        className="flex gap-1"
      >
        {options.map((option) => (
          <ToggleGroup.Item
            key={option.value}
            value={option.value}
            className="rounded-full border border-line bg-paper px-2.5 py-0.5 text-[13px] data-[state=on]:border-verdigris data-[state=on]:bg-verdigris-pale data-[state=on]:text-verdigris"
          >
            {option.label}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
    </div>
  );
}
