/** Edits of a worksheet: what they are, how they are sent, and what is known of their result beforehand. */
import { client, type Job, type Matching, type NewStep, type Step, type Turn, unwrap } from "../api/client";
import type { components } from "../api/schema";
import { count } from "../shared/format";

/** What the client says of a new step: that the core knows defaults, it can't say. */
type Whole = components["schemas"]["NewStep"];

export type StepChange = { turn?: Turn; inputs?: string[]; names?: string[]; over?: Step["over"] };
export type LinePlace = { before: string } | { after: string };
export type LineAction = components["schemas"]["LineEdit"]["do"];
export type Dismissal = components["schemas"]["Dismissal"];
export type Edit =
  /** One turn can be put before a line or after it. */
  | { kind: "add"; steps: NewStep[]; place?: LinePlace | undefined }
  /** Changes of a step that follow each other are one gesture where they are called alike, and undone as one. */
  | { kind: "change"; step: string; change: StepChange; gesture?: string | undefined }
  | { kind: "lines"; do: LineAction; steps: string[]; to?: number }
  | { kind: "dismiss"; findings: Dismissal[]; dismissed: boolean }
  | { kind: "archive"; refs: string[]; archived: boolean }
  | { kind: "pair"; members: string[]; together: boolean }
  | { kind: "deleteSource"; source: string }
  | { kind: "replaceSource"; source: string; by: string }
  | { kind: "recipe"; recipe: string; refs: string[]; by: Matching }
  /** `was` is the note that it was written over. */
  | { kind: "note"; source: string; note: string; was: string }
  | { kind: "undo" }
  | { kind: "redo" }
  | { kind: "restore"; revision: string }
  | { kind: "restoreLine"; revision: string; step: string };

/**
 * Make an edit of a job as it is known here; the server refuses it where the job has become another meanwhile. `amends`
 * is the revision whose place a change takes, so that undo goes to before both.
 */
export function sendEdit({ id, head: base }: Job, edit: Edit, amends?: string): Promise<Job> {
  const path = { job_id: id };
  switch (edit.kind) {
    case "add":
      return unwrap(
        client.POST("/api/jobs/{job_id}/steps", {
          params: { path },
          body: { steps: edit.steps as Whole[], base, ...edit.place },
        }),
      );
    case "change": {
      return unwrap(
        client.PATCH("/api/jobs/{job_id}/steps/{step_id}", {
          params: { path: { ...path, step_id: edit.step } },
          body: { ...edit.change, base, ...(amends && { amends }) },
        }),
      );
    }
    case "lines":
      return unwrap(
        client.POST("/api/jobs/{job_id}/lines", {
          params: { path },
          body: { base, do: edit.do, steps: edit.steps, to: edit.to ?? 0 },
        }),
      );
    case "dismiss":
      return unwrap(
        client.POST("/api/jobs/{job_id}/dismissals", {
          params: { path },
          body: { base, findings: edit.findings, dismissed: edit.dismissed },
        }),
      );
    case "archive":
      return unwrap(
        client.POST("/api/jobs/{job_id}/archive", {
          params: { path },
          body: { refs: edit.refs, archived: edit.archived, base },
        }),
      );
    case "pair":
      return unwrap(
        client.POST("/api/jobs/{job_id}/pairings", {
          params: { path },
          body: { members: edit.members, together: edit.together, base },
        }),
      );
    case "deleteSource":
      return unwrap(
        client.DELETE("/api/jobs/{job_id}/sources/{source_id}", {
          params: { path: { ...path, source_id: edit.source }, query: { base } },
        }),
      );
    case "replaceSource":
      return unwrap(
        client.POST("/api/jobs/{job_id}/sources/{source_id}/replace", {
          params: { path: { ...path, source_id: edit.source } },
          body: { base, by: edit.by },
        }),
      );
    case "recipe":
      return unwrap(
        client.POST("/api/jobs/{job_id}/recipes", {
          params: { path },
          body: { base, recipe: edit.recipe, refs: edit.refs, by: edit.by },
        }),
      );
    case "note":
      return unwrap(
        client.PATCH("/api/jobs/{job_id}/sources/{source_id}", {
          params: { path: { ...path, source_id: edit.source } },
          body: { note: edit.note, was: edit.was },
        }),
      );
    case "undo":
    case "redo":
      return unwrap(client.POST(`/api/jobs/{job_id}/${edit.kind}`, { params: { path, query: { base } } }));
    case "restore":
      return unwrap(
        client.POST("/api/jobs/{job_id}/revisions/{revision_id}/restore", {
          params: { path: { ...path, revision_id: edit.revision }, query: { base } },
        }),
      );
    case "restoreLine":
      return unwrap(
        client.POST("/api/jobs/{job_id}/revisions/{revision_id}/lines/{step_id}/restore", {
          params: { path: { ...path, revision_id: edit.revision, step_id: edit.step }, query: { base } },
        }),
      );
    default:
      return edit satisfies never;
  }
}

/** What is known already of a job after an edit; the server's answer brings the rest. */
export function applied(job: Job, edit: Edit): Job {
  switch (edit.kind) {
    case "change": {
      const { turn, inputs, names, over } = edit.change;
      return {
        ...job,
        steps: job.steps.map((step) =>
          step.id !== edit.step
            ? step
            : {
                ...step,
                ...(turn && { turn }),
                ...(inputs && { inputs }),
                ...(over !== undefined && { over }),
                outputs: step.outputs.map((clip, n) => ({ ...clip, name: names?.[n] ?? clip.name })),
              },
        ),
      };
    }
    case "archive": {
      const refs = new Set(edit.refs);
      return {
        ...job,
        sources: job.sources.map((one) => (refs.has(one.ref) ? { ...one, archived: edit.archived } : one)),
      };
    }
    default:
      return job;
  }
}

/** What was meant by an edit, for whoever has to make it once more. */
export function describeEdit(edit: Edit, job: Job | null): string {
  const line = (id: string) => {
    const at = job?.steps.findIndex((step) => step.id === id) ?? -1;
    const step = job?.steps[at];
    return step ? `line ${at + 1} (${step.verb})` : "a line that is gone";
  };
  const file = (id: string) => job?.sources.find((source) => source.id === id)?.name ?? "a file that is gone";
  switch (edit.kind) {
    case "add":
      return `adding ${edit.steps.map(({ turn }) => turn.kind).join(", ")}`;
    case "change":
      return `the change of ${line(edit.step)}`;
    case "lines":
      return `${DONE_TO_LINES[edit.do]} ${edit.steps.map(line).join(", ")}`;
    case "dismiss":
      return edit.dismissed ? "dismissing a question" : "asking a question again";
    case "archive":
      return `${edit.archived ? "archiving" : "restoring"} ${count(edit.refs.length, "file")}`;
    case "pair":
      return edit.together ? "pairing files" : "taking a pair apart";
    case "deleteSource":
      return `deleting ${file(edit.source)}`;
    case "replaceSource":
      return `replacing ${file(edit.source)}`;
    case "recipe":
      return "applying a recipe";
    case "note":
      return `the note of ${file(edit.source)}: “${edit.note}”`;
    case "undo":
    case "redo":
      return edit.kind;
    case "restore":
      return "restoring an earlier version";
    case "restoreLine":
      return `restoring ${line(edit.step)}`;
    default:
      return edit satisfies never;
  }
}

const DONE_TO_LINES: Record<LineAction, string> = {
  remove: "removing",
  move: "moving",
  duplicate: "duplicating",
  bypass: "bypassing",
  enable: "enabling",
};
