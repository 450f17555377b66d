import type { ReactNode } from "react";

/** Stands for the stage, which needs a graphics card: only what lies over it. */
export const Stage = ({ children }: { children?: ReactNode }) => <div>{children}</div>;
