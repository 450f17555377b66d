import { Switch as RadixSwitch } from "radix-ui";

type Props = { label: string; checked: boolean; onChange: (value: boolean) => void };

export function Switch({ label, checked, onChange }: Props) {
  return (
    <label className="flex items-center justify-between py-1">
      {label}
      <RadixSwitch.Root
        checked={checked}
        onCheckedChange={onChange}
        aria-label={label}
        className="h-[18px] w-8 rounded-full bg-line transition-colors data-[state=checked]:bg-verdigris"
      >
        <RadixSwitch.Thumb className="block h-[14px] w-[14px] translate-x-[2px] rounded-full bg-white transition-transform data-[state=checked]:translate-x-[16px]" />
      </RadixSwitch.Root>
    </label>
  );
}
