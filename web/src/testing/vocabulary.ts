import type { Vocabulary } from "@/api/vocabulary";

/** The part of the server's tables that tests of the page's own logic need. */
export const VOCABULARY: Vocabulary = {
  kinds: [
    { name: "material", label: "Material", list: "materials" },
    { name: "part", label: "Part", list: "parts" },
    { name: "pair", label: "Pair", list: "pairs" },
    { name: "left-out", label: "Left out", list: "left_out" },
    { name: "bolt", label: "Bolts", list: "bolts" },
    { name: "support", label: "Support", list: "supports" },
    { name: "load", label: "Load", list: "loads" },
    { name: "step", label: "Step", list: "steps" },
  ],
  loads: [
    { kind: "force", label: "Force", quantity: "force", acts_on: "faces or handle", has_direction: true },
    { kind: "rotation", label: "Prescribed rotation", quantity: "angle", acts_on: "handle", has_direction: true },
  ],
  quantities: [
    { name: "force", unit: "kN", factor: 1e-3, example: "18 kN" },
    { name: "angle", unit: "°", factor: 180 / Math.PI, example: "30 deg" },
  ],
  fields: [
    {
      name: "pressure",
      label: "Contact pressure",
      where: "pair",
      unit: "MPa",
      spoken: "MPa",
      factor: 1,
      is_signed: false,
    },
    { name: "gap", label: "Gap", where: "pair", unit: "mm", spoken: "µm", factor: 1000, is_signed: false },
    {
      name: "von_mises",
      label: "Von Mises stress",
      where: "part",
      unit: "MPa",
      spoken: "MPa",
      factor: 1,
      is_signed: false,
    },
  ],
};
