/** Kinds of study, as they are chosen. */
export const SPACES = [
  { value: "solid", label: "solid" },
  { value: "plane-strain", label: "plane strain" },
  { value: "plane-stress", label: "plane stress" },
  { value: "axisymmetric", label: "axisymmetric" },
];
