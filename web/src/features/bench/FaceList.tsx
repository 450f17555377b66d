import type { StudyDocument } from "@/api/client";
import { useSelection } from "@/features/selection";
import { tell } from "@/ui/notices";
import { type EditFn, put } from "./edits";

type Props = {
  study: StudyDocument;
  path: string;
  name: string;
  faces: readonly string[];
  onEdit: EditFn;
  label?: string;
};

/** Faces of an item in words; each can be taken away, more are picked on the stage while gathering goes on. */
export function FaceList({ study, path, name, faces, onEdit, label }: Props) {
  const { gathering, gather } = useSelection();
  const isGathering = gathering === path;
  const action = isGathering ? "Done picking" : "Pick faces";
  const without = (face: string) =>
    tell(
      onEdit(
        [
          put(
            path,
            faces.filter((f) => f !== face),
          ),
        ],
        `Faces of ${name}`,
      ),
    );
  return (
    <>
      <p className="flex items-baseline justify-between">
        <span className="text-quiet">{label ?? `${faces.length} ${faces.length === 1 ? "face" : "faces"}`}</span>
        <button
          type="button"
          aria-pressed={isGathering}
          aria-label={label ? `${action} of side ${label}` : action}
          className="rounded px-1 text-verdigris hover:underline aria-pressed:bg-verdigris aria-pressed:text-white"
          onClick={() => gather(isGathering ? undefined : path)}
        >
          {action}
        </button>
      </p>
      {faces.map((face) => (
        <p key={face} className="flex items-center justify-between gap-2">
          <span className="min-w-0 truncate" title={face}>
            {faceWords(study, face)}
          </span>
          {faces.length > 1 && (
            <button
              type="button"
              aria-label={`Take ${face} away`}
              className="px-1 text-quiet hover:text-vermilion"
              onClick={() => without(face)}
            >
              ×
            </button>
          )}
        </p>
      ))}
      {isGathering && (
        <p role="status" className="text-[12.5px] text-quiet">
          Click faces on the stage to add them, and again to take them away; with Alt, all that go on from one smoothly.
        </p>
      )}
    </>
  );
}

/** `Lug / hole` for `lug/hole`. */
export function faceWords(study: StudyDocument, reference: string): string {
  const [owner = "", face = ""] = reference.split("/");
  const [id, copy] = owner.split("#");
  const name = study.parts?.find((p) => p.id === id)?.name ?? owner;
  return [`${name}${copy ? ` ${copy}` : ""}`, ...(face ? [face] : [])].join(" / ");
}

/** A list of faces with one more, or without it where it is there already. */
export const toggled = (faces: readonly string[], face: string) =>
  faces.includes(face) ? faces.filter((f) => f !== face) : [...faces, face];
