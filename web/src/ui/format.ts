export { figure, raised } from "./figure";

export const percent = (share: number) => `${Math.round(share * 100)} %`;

/** Seconds as a person says them. */
export function duration(seconds: number): string {
  if (seconds < 60) return `${Math.round(seconds)} s`;
  return `${Math.floor(seconds / 60)} min ${Math.round(seconds % 60)} s`;
}
