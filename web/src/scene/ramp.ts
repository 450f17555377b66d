/** Our perceptual ramp, ink on paper: cream at zero through straw and verdigris to deep ink at the peak. */
export const RAMP = ["#f3ecd6", "#c4cd96", "#68a484", "#266874", "#1c2242"] as const;
/** For fields with a sign: copper below zero, paper at zero, ink above. */
export const SIGNED_RAMP = ["#8a3d14", "#d59a6b", "#f6f3ea", "#7fa7a3", "#1f4a5c"] as const;

/** What lies above or below limits that were set by hand. */
export const ABOVE = "#b23824";
export const BELOW = "#cfd6da";

/** From where to where colours run, evenly or by powers of ten. */
export type Span = { low: number; high: number; isLog?: boolean };

/** How far along a span a value is: 0 at its low end, 1 at its high one. */
export const shareIn = ({ low, high, isLog }: Span, value: number): number =>
  isLog ? Math.log(Math.max(value, low) / low) / Math.log(high / low) : (value - low) / (high - low);

/** The value at a share of a span. */
export const valueIn = ({ low, high, isLog }: Span, share: number): number =>
  isLog ? low * (high / low) ** share : low + share * (high - low);

/** Powers of ten that a span has where it begins at nothing. */
const DECADES = 4;

/** The span by powers of ten: it cannot begin at nothing. */
export const asLog = ({ low, high }: Span): Span => ({ low: Math.max(low, high / 10 ** DECADES), high, isLog: true });

export type Colour = [number, number, number];

export function toColour(hex: string): Colour {
  const n = Number.parseInt(hex.slice(1), 16);
  return [((n >> 16) & 255) / 255, ((n >> 8) & 255) / 255, (n & 255) / 255];
}

export const cssGradient = (stops: readonly string[]) => `linear-gradient(to right, ${stops.join(", ")})`;

/** Muted part colours, in order of appearance; copper is kept for what is tightened. */
const PART_COLOURS = ["#b4beb8", "#d2bd9c", "#a9b7c0", "#c9b3a8", "#b9bf9d", "#c3b8c8"] as const;
export const BOLT_COLOUR = "#d9976c";

export const partColour = (index: number, tightened: boolean) =>
  tightened ? BOLT_COLOUR : (PART_COLOURS[index % PART_COLOURS.length] ?? PART_COLOURS[0]);
