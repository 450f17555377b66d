import type { Stage3D } from "./Stage3D";

/** Stages that are looked at together. */
export class ViewTie {
  private readonly stages = new Set<Stage3D>();
  private isTurning = false;

  /** A stage looks from now on as the others do. */
  join(stage: Stage3D): void {
    const first = [...this.stages][0];
    this.stages.add(stage);
    if (first) this.turned(first);
  }

  /** The stage that one looks as; none for the first. */
  leadOf(stage: Stage3D): Stage3D | undefined {
    const [first] = this.stages;
    return first === stage ? undefined : first;
  }

  leave(stage: Stage3D): void {
    this.stages.delete(stage);
  }

  /** A stage was turned: the others follow, and do not turn it in their turn. */
  turned(by: Stage3D): void {
    if (this.isTurning) return;
    this.isTurning = true;
    for (const stage of this.stages) if (stage !== by) stage.lookAs(by);
    this.isTurning = false;
  }
}
