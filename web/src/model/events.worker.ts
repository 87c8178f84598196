/** Holds the one stream of events for all windows. */
import { type Message, stream } from "./eventStream";

const ports = new Set<MessagePort>();
/** Null until the server has answered for the first time, or has not. */
let lost: boolean | null = null;
let greeted = false;
stream((message) => {
  if (message.kind === "open" || message.kind === "lost") lost = message.kind === "lost";
  if (message.kind === "hello") greeted = true;
  for (const port of ports) port.postMessage(message);
});

addEventListener("connect", (event) => {
  const [port] = (event as MessageEvent).ports;
  if (!port) return;
  join(port);
  // A page that is gone may come back as it was: by the way back.
  port.onmessage = ({ data }) => (data === "leave" ? ports.delete(port) : join(port));
});

function join(port: MessagePort) {
  ports.add(port);
  // A window that comes later missed how the stream began.
  if (greeted) port.postMessage({ kind: "hello", data: {} } satisfies Message);
  if (lost !== null) port.postMessage({ kind: lost ? "lost" : "open", data: null } satisfies Message);
}
