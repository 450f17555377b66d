import type { AxesUse, SupportUse, TurnedAxes } from "@/api/client";
import { useFaceInfo } from "@/api/hooks";
import { Button } from "@/ui/Button";
import { Choice } from "@/ui/Choice";
import { tell } from "@/ui/notices";
import { type EditFn, put } from "./edits";
import { Three } from "./Three";

type Own = Pick<TurnedAxes, "x" | "y">;

/** Where x and y of turned axes point. */
function Turned({ axes, path, name, onEdit }: { axes: Own; path: string; name: string; onEdit: EditFn }) {
  return (
    <>
      <Three label={(a) => `x points to ${a}`} values={axes.x ?? []} path={`${path}/x`} name={name} onEdit={onEdit} />
      {axes.y ? (
        <Three label={(a) => `y towards ${a}`} values={axes.y} path={`${path}/y`} name={name} onEdit={onEdit} />
      ) : (
        <Button onClick={() => tell(onEdit([put(`${path}/y`, across(axes.x ?? [1, 0, 0]))], name))}>
          Say where y points
        </Button>
      )}
    </>
  );
}

/** A direction across another, along a coordinate axis as far as it can be. */
const across = ([x, y]: readonly number[]) =>
  Math.abs(y ?? 0) < 0.9 * Math.hypot(x ?? 0, y ?? 0) ? [0, 1, 0] : [1, 0, 0];

/** The directions of a spring: those of the machine, or its own. */
export function SpringAxes({
  axes,
  line,
  path,
  name,
  onEdit,
}: {
  axes: TurnedAxes | null | undefined;
  /** From its first to its second end, where it has two. */
  line: [number, number, number] | undefined;
  path: string;
  name: string;
  onEdit: EditFn;
}) {
  const what = `Directions of ${name}`;
  const turn = (x: readonly number[]) => tell(onEdit([put(path, { x, y: null })], what));
  return (
    <>
      <Choice
        label="Axes"
        value={axes ? "turned" : "machine"}
        options={[
          { value: "machine", label: "machine's" },
          { value: "turned", label: "turned" },
        ]}
        onChange={(next) => (next === "turned" ? turn(line ?? [1, 0, 0]) : tell(onEdit([put(path, null)], what)))}
      />
      {axes && <Turned axes={axes} path={path} name={what} onEdit={onEdit} />}
      {axes && line && <Button onClick={() => turn(line)}>x from one end to the other</Button>}
    </>
  );
}

/** The directions that a support holds along: the machine's, turned ones, or round ones about a line. */
export function SupportAxes({
  study,
  support,
  path,
  onEdit,
}: {
  study: number;
  support: SupportUse;
  path: string;
  onEdit: EditFn;
}) {
  const look = useFaceInfo(study);
  const { axes } = support;
  const [what, face] = [`Directions of ${support.name}`, support.faces?.[0]];
  const set = (next: Partial<AxesUse> | null) => onEdit([put(path, next)], what);
  /** Turned ones begin across the first face, round ones about its axis. */
  const choose = async (kind: string) => {
    const found = face && kind !== "machine" ? await look.mutateAsync(face).catch(() => undefined) : undefined;
    if (kind === "turned") await set({ kind, x: found?.kind === "flat" ? found.direction : [1, 0, 0] });
    else if (kind === "round" && found?.kind === "round")
      await set({
        kind,
        line: found.direction,
        centre: found.at.map((c) => `${Number(c.toFixed(6))} mm`) as AxesUse["centre"],
      });
    else await set(kind === "round" ? { kind } : null);
  };
  return (
    <>
      <Choice
        label="Axes"
        value={axes?.kind ?? "machine"}
        options={[
          { value: "machine", label: "machine's" },
          { value: "turned", label: "turned" },
          ...(support.handle ? [] : [{ value: "round", label: "round" }]),
        ]}
        onChange={(kind) => tell(choose(kind))}
      />
      {axes?.kind === "turned" && <Turned axes={axes} path={path} name={what} onEdit={onEdit} />}
      {axes?.kind === "round" && (
        <>
          <Three
            label={(a) => `through ${a}`}
            values={axes.centre ?? []}
            path={`${path}/centre`}
            name={what}
            onEdit={onEdit}
          />
          <Three
            label={(a) => `along ${a}`}
            values={axes.line ?? []}
            path={`${path}/line`}
            name={what}
            onEdit={onEdit}
          />
        </>
      )}
    </>
  );
}
