import { useHealth } from "@/api/hooks";

/** What keeps the server from working, over every view; nothing while all is well. */
export function HealthBar() {
  const health = useHealth();
  const problems = health.error ? ["The server does not answer."] : (health.data?.problems ?? []);
  if (!problems.length) return null;
  return (
    <div role="alert" className="border-b border-vermilion bg-copper-pale px-4 py-1 text-vermilion">
      {problems.map((problem) => (
        <p key={problem}>{problem}</p>
      ))}
    </div>
  );
}
