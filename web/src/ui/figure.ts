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
  const decimals = Math.max(0, digits - 1 - Math.floor(Math.log10(Number(size.toPrecision(digits)))));
  return value.toFixed(Math.min(decimals, 6));
}
