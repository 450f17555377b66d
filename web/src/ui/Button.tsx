import type { ButtonHTMLAttributes } from "react";

type Props = ButtonHTMLAttributes<HTMLButtonElement> & { tone?: "main" | "plain" | "danger" };

const TONES = {
  main: "bg-verdigris text-white border-verdigris hover:brightness-110 font-semibold",
  plain: "bg-paper text-ink border-line hover:bg-verdigris-pale",
  danger: "bg-paper text-vermilion border-vermilion hover:bg-copper-pale",
};

export function Button({ tone = "plain", className = "", ...rest }: Props) {
  return (
    <button
      type="button"
      className={`rounded-md border px-3 py-1 disabled:opacity-45 ${TONES[tone]} ${className}`}
      {...rest}
    />
  );
}
