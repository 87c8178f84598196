/** The server's stream of events, opened again and again where it breaks. */

const EVENTS = [
  "hello",
  "jobs-changed",
  "job-changed",
  "recipes-changed",
  "measured",
  "delivery",
  "signed-out",
] as const;
export type ServerEvent = (typeof EVENTS)[number];
/** What the server told, or that the stream is open or lost. */
export type Message = { kind: ServerEvent | "open" | "lost"; data: unknown };

const RECONNECT_AFTER = 2_000; // milliseconds

/** Listen to the stream; returns how to stop. */
export function stream(react: (message: Message) => void): () => void {
  let source: EventSource;
  let retry: ReturnType<typeof setTimeout> | undefined;
  const open = () => {
    source = new EventSource("/api/events");
    for (const kind of EVENTS)
      source.addEventListener(kind, (event) =>
        react({ kind, data: JSON.parse((event as MessageEvent<string>).data) }),
      );
    source.onopen = () => react({ kind: "open", data: null });
    source.onerror = () => {
      react({ kind: "lost", data: null });
      // A stream that was answered with an error is closed for good: it is opened anew.
      if (source.readyState !== EventSource.CLOSED) return;
      clearTimeout(retry);
      retry = setTimeout(open, RECONNECT_AFTER);
    };
  };
  open();
  return () => {
    clearTimeout(retry);
    source.close();
  };
}
