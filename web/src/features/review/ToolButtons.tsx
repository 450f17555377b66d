import { ApiProblem } from "@/api/client";
import { Field } from "@/ui/Field";
import { Select } from "@/ui/Select";
import type { Mirrors, Ring } from "@/scene/mirrors";

import type { useTools } from "./useTools";

type Props = {
  tools: ReturnType<typeof useTools>;
  /** Whether parts are shown, or a pair. */
  isOfParts: boolean;
  /** Planes that nothing crosses: what is shown may be half of it. */
  halves: Mirrors | undefined;
  /** Whether it is a section of something. */
  isSection: boolean;
  /** Whether there are parts to take apart. */
  hasSeveral: boolean;
  /** The middle of what is shown, as it is stored. */
  middle: number;
};

/** What a press on the stage does, what is marked there, and what more of it is seen. */
export function ToolButtons({ tools, isOfParts, halves, isSection, hasSeveral, middle }: Props) {
  const toggle = (tool: "read" | "path") => tools.setTool(tools.tool === tool ? "choose" : tool);
  const { isDirected, setDirected } = tools;
  return (
    <>
      {tools.pins.length > 0 && (
        <button type="button" className="text-[13px] text-verdigris hover:underline" onClick={() => tools.setPins([])}>
          clear readings
        </button>
      )}
      <Toggle
        label="pin"
        title="Press on the stage to pin what is read there"
        isOn={tools.tool === "read"}
        onPress={() => toggle("read")}
      />
      {isOfParts && (
        <Toggle
          label="path"
          title="A line through the parts, and the field along it"
          isOn={tools.tool === "path"}
          onPress={() => toggle("path")}
        />
      )}
      <Toggle
        label="extremes"
        title="Mark the highest and lowest of what is shown"
        isOn={tools.marksExtremes}
        onPress={() => tools.setMarksExtremes(!tools.marksExtremes)}
      />
      {isOfParts && (
        <Toggle
          label="before"
          title="The outline as it was before anything moved"
          isOn={tools.showsStart}
          onPress={() => tools.setShowsStart(!tools.showsStart)}
        />
      )}
      <Toggle
        label={isOfParts ? "directions" : "arrows"}
        title={
          isOfParts
            ? "Directions of principal stress as crosses: pulled in green, pressed in copper"
            : "Frictional stress on side A as arrows, or the way that it slid where sliding is shown"
        }
        isOn={isDirected}
        onPress={() => setDirected(!isDirected)}
      />
      {isOfParts && (
        <Toggle
          label="singular"
          title="Sharp edges where stress grows with every finer mesh: what they are, and what can be done"
          isOn={tools.showsSingular}
          onPress={() => tools.setShowsSingular(!tools.showsSingular)}
        />
      )}
      {!isSection && isOfParts && (
        <Toggle
          label="surface"
          title="The surface inside the parts on which the field has one value"
          isOn={tools.level !== undefined}
          onPress={() => tools.setLevel(tools.level === undefined ? middle : undefined)}
        />
      )}
      {isSection && isOfParts && (
        <Toggle
          label="solid"
          title="The solid that this is a section of, with an opening where it is turned"
          isOn={tools.isSolid}
          onPress={tools.toggleSolid}
        />
      )}
      {halves?.some(Boolean) && (
        <span role="group" aria-label="Mirrored" className="flex items-center gap-1">
          {(["x", "y", "z"] as const).map(
            (axis, k) =>
              halves[k] && (
                <Toggle
                  key={axis}
                  label={`mirror ${axis}`}
                  title={`See the other half too, mirrored in the plane ${axis} = 0`}
                  isOn={tools.mirrors[k] ?? false}
                  onPress={() =>
                    tools.setMirrors(tools.mirrors.map((m, i) => (i === k ? !m : m)) as unknown as Mirrors)
                  }
                />
              ),
          )}
        </span>
      )}
      {!isSection && <RingSelect ring={tools.ring} onRing={tools.setRing} />}
      {!isSection && hasSeveral && (
        <label className="flex items-center gap-1.5 text-[13px] text-quiet">
          apart
          <input
            type="range"
            min={0}
            max={1.5}
            step={0.05}
            value={tools.apart}
            className="w-12 accent-verdigris"
            onChange={(e) => tools.setApart(Number(e.target.value))}
          />
        </label>
      )}
      <Toggle
        label="beside"
        title="Another field or another run beside it, looked at together"
        isOn={tools.isBeside}
        onPress={() => tools.setBeside(!tools.isBeside)}
      />
    </>
  );
}

/** What is shown as one sector of so many about an axis of the study. */
function RingSelect({ ring, onRing }: { ring: Ring | undefined; onRing: (ring: Ring | undefined) => void }) {
  return (
    <span role="group" aria-label="Repeated" className="flex items-center gap-1 text-[13px] [&_input]:w-8">
      <Select
        label="Repeated about"
        hideLabel
        value={ring ? String(ring.axis) : "once"}
        options={[
          { value: "once", label: "single" },
          ...["x", "y", "z"].map((axis, k) => ({ value: String(k), label: `ring about ${axis}` })),
        ]}
        onChange={(axis) => onRing(axis === "once" ? undefined : { axis: Number(axis), count: ring?.count ?? 6 })}
      />
      {ring && (
        <Field
          label="Sectors"
          hideLabel
          value={String(ring.count)}
          onCommit={(text) => {
            const count = Number(text);
            if (!Number.isInteger(count) || count < 2 || count > MOST_SECTORS)
              return Promise.reject(
                new ApiProblem("number", `“${text}” is no number of sectors.`, "", `Give 2 to ${MOST_SECTORS}.`),
              );
            onRing({ ...ring, count });
            return Promise.resolve();
          }}
        />
      )}
    </span>
  );
}
const MOST_SECTORS = 120;

type ToggleProps = { label: string; title: string; isOn: boolean; onPress: () => void };

function Toggle({ label, title, isOn, onPress }: ToggleProps) {
  const tone = isOn ? "border-verdigris bg-verdigris-pale text-verdigris" : "border-line bg-paper";
  return (
    <button
      type="button"
      aria-pressed={isOn}
      title={title}
      className={`rounded border px-2 py-0.5 text-[13px] whitespace-nowrap ${tone}`}
      onClick={onPress}
    >
      {label}
    </button>
  );
}
