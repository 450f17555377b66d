import type { Pick } from "@/scene/Stage3D";

export type Peel = { picks: Pick[]; at: { x: number; y: number } };

type Props = {
  peel: Peel | undefined;
  nameOf: (body: string) => string;
  onPeek: (face: Pick | undefined) => void;
  onTake: (face: Pick) => void;
  onClose: () => void;
};

/** All faces under the pointer, the nearest first: pointing at one shows it, a click picks it, covered or not. */
export function PeelMenu({ peel, nameOf, onPeek, onTake, onClose }: Props) {
  if (!peel) return null;
  return (
    <div
      className="absolute inset-0 z-20"
      onClick={onClose}
      onContextMenu={(e) => {
        e.preventDefault();
        onClose();
      }}
    >
      <ul
        aria-label="Faces under the pointer"
        onClick={(e) => e.stopPropagation()}
        onMouseLeave={() => onPeek(undefined)}
        className="absolute max-h-[70%] min-w-[180px] overflow-auto rounded-md border border-line bg-paper py-1 shadow-lg"
        style={{ left: Math.min(peel.at.x, 500), top: Math.min(peel.at.y, 300) }}
      >
        <li className="px-3 pb-1 text-[12px] font-semibold tracking-wide text-quiet">Faces under the pointer</li>
        {!peel.picks.length && <li className="px-3 text-quiet">None here.</li>}
        {peel.picks.map((p) => (
          <li key={`${p.body}/${p.face}`}>
            <button
              type="button"
              className="w-full px-3 py-0.5 text-left hover:bg-verdigris-pale focus-visible:bg-verdigris-pale"
              onMouseEnter={() => onPeek(p)}
              onFocus={() => onPeek(p)}
              onClick={() => onTake(p)}
            >
              {nameOf(p.body)} <span className="text-quiet">{p.face}</span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
