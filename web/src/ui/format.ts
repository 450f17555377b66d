/** A whole number as an exponent is written: ⁻⁹. */
export const raised = (n: number) =>
  String(n)
    .replace("-", "⁻")
    .replace(/\d/g, (d) => "⁰¹²³⁴⁵⁶⁷⁸⁹"[Number(d)] ?? d);

/** A number with about three significant figures, without exponent where it can be avoided. */
export function figure(value: number, digits = 3): string {
  if (value === 0) return "0";
  const size = Math.abs(value);
  if (size < 1e-4 || size >= 1e7) {
    const [mantissa = "", exponent = ""] = value.toExponential(1).split("e");
    return `${mantissa}·10${raised(Number(exponent))}`;
  }
  const decimals = Math.max(0, digits - 1 - Math.floor(Math.log10(size)));
  return value.toFixed(Math.min(decimals, 6));
}

/** A force in N as kN or N. */
export const force = (newton: number) =>
  Math.abs(newton) >= 1000 ? `${figure(newton / 1000)} kN` : `${figure(Math.abs(newton) < 1e-6 ? 0 : newton)} N`;

/** A moment in N·mm as N·m or N·mm. */
export const moment = (nmm: number) =>
  Math.abs(nmm) >= 1000 ? `${figure(nmm / 1000)} N·m` : `${figure(Math.abs(nmm) < 1e-6 ? 0 : nmm)} N·mm`;

/** A length in mm as mm or µm. */
export function length(mm: number, digits = 3): string {
  if (Math.abs(mm) < 1e-9) return "0 mm";
  return Math.abs(mm) < 0.1 ? `${figure(mm * 1000, digits)} µm` : `${figure(mm, digits)} mm`;
}

export const percent = (share: number) => `${Math.round(share * 100)} %`;

/** Seconds as a person says them. */
export function duration(seconds: number): string {
  if (seconds < 60) return `${Math.round(seconds)} s`;
  return `${Math.floor(seconds / 60)} min ${Math.round(seconds % 60)} s`;
}
