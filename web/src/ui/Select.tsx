import { Select as RadixSelect } from "radix-ui";

type Props = {
  label: string;
  hideLabel?: boolean;
  value: string;
  options: { value: string; label: string }[];
  onChange: (value: string) => void;
  placeholder?: string;
};

export function Select({ label, hideLabel, value, options, onChange, placeholder }: Props) {
  return (
    <div className="flex items-center justify-between gap-3 py-0.5">
      {!hideLabel && <span>{label}</span>}
      <RadixSelect.Root value={value} onValueChange={onChange}>
        <RadixSelect.Trigger
          aria-label={label}
          className="flex min-w-0 items-center gap-2 rounded border border-line bg-white px-2 py-0.5"
        >
          <span className="truncate">
            <RadixSelect.Value placeholder={placeholder} />
          </span>
          <RadixSelect.Icon className="text-quiet">▾</RadixSelect.Icon>
        </RadixSelect.Trigger>
        <RadixSelect.Portal>
          <RadixSelect.Content
            position="popper"
            collisionPadding={8}
            className="z-50 max-h-[var(--radix-select-content-available-height)] rounded-md border border-line bg-white py-1 shadow-lg"
          >
            <RadixSelect.Viewport>
              {options.map((o) => (
                <RadixSelect.Item
                  key={o.value}
                  value={o.value}
                  className="cursor-pointer px-3 py-1 outline-none data-[highlighted]:bg-verdigris-pale data-[state=checked]:font-semibold"
                >
                  <RadixSelect.ItemText>{o.label}</RadixSelect.ItemText>
                </RadixSelect.Item>
              ))}
            </RadixSelect.Viewport>
          </RadixSelect.Content>
        </RadixSelect.Portal>
      </RadixSelect.Root>
    </div>
  );
}
