type Props = { of: Error | null; className?: string };

/** Why something was refused, and what to do, where there is such a problem. */
export function Refusal({ of: problem, className = "pt-1" }: Props) {
  if (!problem) return null;
  return (
    <p role="alert" className={`text-vermilion ${className}`}>
      {problem.message} {"hint" in problem ? String(problem.hint) : ""}
    </p>
  );
}
