/** Lines that the core refuses, and what is added in their place. */
import { type NewStep, Problem } from "../../api/client";
import { kindOf } from "./kinds";

/** The same lines, with other turns where their kinds know a way past this problem; null where none does. */
export function findFallbackSteps(steps: readonly NewStep[], problem: unknown): NewStep[] | null {
  if (!(problem instanceof Problem)) return null;
  const others = steps.map(({ turn }) => kindOf(turn).fallback?.(turn, problem.code) ?? null);
  if (others.every((turn) => turn === null)) return null;
  return steps.map((step, n) => ({ ...step, turn: others[n] ?? step.turn }));
}
