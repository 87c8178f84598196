/** A worksheet, and a server that answers it when a test says so. */
import { vi } from "vitest";
import { client, type Job, type Turn } from "../api/client";
import { job, mergeStep } from "../api/testing";
import { Worksheet } from "./worksheet";

type Asked = {
  method: string;
  path: string;
  body: Record<string, unknown>;
  /** Answer with the job at this head, or with an error. */
  answer: (head: string, more?: Partial<Job>) => Promise<void>;
  refuse: (code: string, status?: number) => Promise<void>;
  /** As a server that is not there. */
  lose: () => Promise<void>;
};
export const settled = async () => void (await vi.advanceTimersByTimeAsync(0));
export const level = (db: number) => ({ kind: "level", gains_db: [db] }) as Turn;
export const steps = [mergeStep({ id: "a" }), mergeStep({ id: "b" })];
export const at = (head: string, more: Partial<Job> = {}) =>
  job(steps, { head, can_undo: true, can_redo: true, ...more });

/** A worksheet at revision r0, and what it asks of a server that answers when it is told to. */
export async function worksheet(looked = true) {
  vi.useFakeTimers();
  const asked: Asked[] = [];
  for (const method of ["GET", "POST", "PATCH", "DELETE"] as const)
    vi.spyOn(client, method).mockImplementation(
      ((path: string, given: never) =>
        new Promise((resolve, reject) => {
          const { body, params } = given as { body?: object; params: { query?: object } };
          asked.push({
            method,
            path: path.replace("/api/jobs/{job_id}", ""),
            body: { ...body, ...params.query },
            answer: (head, more) => {
              resolve({ data: at(head, more), response: new Response(null, { status: 200 }) });
              return settled();
            },
            lose: () => {
              reject(new TypeError("Failed to fetch"));
              return settled();
            },
            refuse: (code, status = 409) => {
              resolve({ error: { code, message: code, help: "" }, response: new Response(null, { status }) });
              return settled();
            },
          });
        })) as never,
    );
  const problems: unknown[] = [];
  const store = new Worksheet("j", (problem) => void problems.push(problem));
  if (looked) {
    void store.look();
    await asked[0]?.answer("r0");
    asked.length = 0;
  }
  const shown = () => store.store.getState();
  const change = (step: string, change: object) => store.do({ kind: "change", step, change });
  const looks = () => asked.filter((one) => one.method === "GET");
  const edits = () => asked.filter((one) => one.method !== "GET");
  return { worksheet: store, asked, shown, change, looks, edits, problems };
}
