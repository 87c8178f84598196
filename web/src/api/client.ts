/** The typed client. Every answer that is no success becomes a Problem that says what happened and what to do. */
import createClient from "openapi-fetch";
import { createStore } from "zustand/vanilla";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type Job = Schemas["JobView"];
export type JobSummary = Schemas["JobSummary"];
export type Source = Schemas["SourceView"];
export type Group = Schemas["GroupView"];
export type SourceDetails = Schemas["SourceDetails"];
export type Measures = Schemas["Measures"];
export type Analysis = Schemas["Analysis"];
export type Levels = Schemas["ChannelLevels"];
export type Unfinished = Schemas["UploadView"];
export type Clip = Schemas["ClipView"];
export type Step = Schemas["StepView"];
export type Turn = Step["turn"];
export type FileFinding = Schemas["FileFinding"];
export type Blending = Schemas["Blending"];
export type Lateness = Schemas["Lateness"];
/** A turn as it is added: settings that it leaves out are the core's defaults. */
export type NewTurn = {
  [K in Turn["kind"]]: { kind: K } & Partial<Extract<Turn, { kind: K }>>;
}[Turn["kind"]];
export type NewStep = Omit<Schemas["NewStep"], "turn" | "followed_by" | "reason" | "rate"> & {
  turn: NewTurn;
  followed_by?: NewTurn[];
  reason?: string;
  rate?: number | null;
};
export type Remedy = Schemas["Remedy"];
export type Question = Schemas["QuestionView"];
export type Proof = Schemas["Proof"];
export type Revision = Schemas["RevisionView"];
export type JobDiskUsage = Schemas["JobDiskUsage"];
export type NewRecipe = Schemas["NewRecipe"];
export type Recipe = Schemas["RecipeView"];
/** Which file takes which role of a recipe: by what its name says, by the name it had, or in order. */
export type Matching = Schemas["RecipeMatching"]["by"];
export type Delivery = Schemas["DeliveryView"];
export type PlannedFile = Schemas["PlannedFile"];
/** How files are delivered, whichever they are. */
export type DeliverySettings = Omit<Required<Schemas["DeliverySettings"]>, "naming"> & { naming: Naming };
export type KeptSettings = Schemas["SettingsView"];
export type FileChange = Schemas["FileChange"];
export type Depth = DeliverySettings["depth"];
export type DeliveryRange = Delivery["range"];
/**
 * What is delivered and how. Copies are files that go along as they are; the range is what every other is trimmed to,
 * null for all of it, and `to` a folder on the server, null where the files wait to be fetched.
 */
export type Order = DeliverySettings & {
  refs: string[];
  copies: string[];
  range: DeliveryRange;
  to: string | null;
};
export type Naming = Required<Schemas["Naming"]>;
/** The format of the files. */
export type Container = DeliverySettings["container"];

/** Whether the server has asked for its password. */
export const access = createStore<{ asked: boolean }>(() => ({ asked: false }));

/** `usable` is how much can be used of an incomplete file. */
export class Problem extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly help: string,
    readonly usable = "",
  ) {
    super(message);
  }
}

export const client = createClient<paths>({ baseUrl: "" });

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The data of an answer, or its Problem thrown. */
export async function unwrap<T>(asked: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await asked;
  } catch (problem) {
    if (problem instanceof DOMException && problem.name === "AbortError") throw problem; // nobody waits for it any more
    throw new Problem("unreachable", "Can’t reach Wedge Turn", "Check that it is still running.");
  }
  if (!answer.response.ok) throw problemFrom(answer.error, answer.response.status);
  return answer.data as T;
}

export function problemFrom(body: unknown, status: number): Problem {
  if (typeof body === "object" && body !== null && "message" in body) {
    const { code, message, help, usable } = body as Record<string, unknown>;
    if (code === "sign-in") access.setState({ asked: true });
    return new Problem(String(code), String(message), String(help ?? ""), String(usable ?? ""));
  }
  return new Problem("http", `Server error (${status})`, "Try again.");
}
