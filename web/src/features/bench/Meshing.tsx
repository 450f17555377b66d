import { useMeshAgain, useMeshJobs, useStopMeshJob } from "@/api/hooks";
import type { MeshProblem } from "@/api/sceneBlock";
import { Button } from "@/ui/Button";
import { figure } from "@/ui/format";

// Seconds after which a mesh that is being made is shown with a way to stop it.
const SOON = 0.8;

/** On the stage: what is being meshed, how far it is, a way to stop it; and which parts have no mesh, and why. */
export function Meshing({
  isWaiting,
  parts,
  problems,
}: {
  isWaiting: boolean;
  parts: string[];
  problems: MeshProblem[];
}) {
  const jobs = useMeshJobs(isWaiting);
  const stop = useStopMeshJob();
  const again = useMeshAgain();
  const shown = isWaiting ? (jobs.data ?? []).filter((j) => j.seconds > SOON && parts.includes(j.title)) : [];
  if (!shown.length && !problems.length) return null;
  return (
    <div className="absolute inset-x-0 bottom-9 mx-auto flex w-[min(420px,92%)] flex-col gap-2">
      {shown.map((job) => (
        <section
          key={job.id}
          aria-label={`Meshing ${job.title}`}
          className="rounded-md border border-line bg-paper px-3 py-2 shadow-lg"
        >
          <div className="flex items-center gap-3">
            <span className="min-w-0 flex-1">
              <span className="block truncate">Meshing {job.title}</span>
              <span className="block text-[12.5px] text-quiet">
                {job.stage}, {figure(job.seconds, 2)} s
              </span>
            </span>
            <Button onClick={() => stop.mutate(job.id)}>Stop</Button>
          </div>
          <div
            role="progressbar"
            aria-label="Share done"
            aria-valuenow={Math.round(100 * job.share)}
            className="mt-1.5 h-1.5 rounded bg-line"
          >
            <div className="h-full rounded bg-verdigris" style={{ width: `${Math.max(2, 100 * job.share)}%` }} />
          </div>
        </section>
      ))}
      {problems.map((problem) => (
        <section
          key={problem.where + problem.message}
          role="alert"
          className="rounded-md border border-vermilion bg-paper px-3 py-2 shadow-lg"
        >
          <p className="text-vermilion">No mesh: {problem.message}</p>
          <p>{problem.hint}</p>
          {problem.code === "stopped" && <Button onClick={() => again.mutate()}>Mesh it again</Button>}
        </section>
      ))}
    </div>
  );
}
