/** The kinds of turns. */
import type { NewStep, Question, Remedy, Step, Turn } from "./client";

export type Kind = Turn["kind"];
export type Of<K extends Kind> = Extract<Turn, { kind: K }>;

/** What deals with a finding, as a line on these inputs and those that follow on its result. */
export const stepOf = ({ turn, followed_by, names, over }: Remedy, inputs: string[], reason = "") =>
  ({ turn, followed_by, inputs, names, over: over ?? null, reason }) satisfies NewStep;

/** The line that an answer to a question adds; null where there is nothing to add. */
export const stepOfAnswer = ({ inputs, remedy, message }: Question) =>
  remedy && stepOf(remedy, inputs, message.slice(0, 500));

/** Whether a split's two channels are mid and side: its results are then called so. */
export const splitsMidSide = ({ turn, outputs: [first, second] }: Step) =>
  turn.kind === "split" && first?.name.endsWith("_mid") === true && second?.name.endsWith("_side") === true;

/** The wedge of a centre turn: where it points (−1 left, 1 right), how wide it is, how it cuts, its band in hertz. */
export type WedgeSettings = {
  position: number;
  opening: number;
  strength: number;
  low: number;
  high: number;
};
