/** Holds the one stream of events for all windows. */
import { type Message, stream } from "./eventStream";

const ports = new Set<MessagePort>();
let lost = false;
stream((message) => {
  if (message.kind === "open" || message.kind === "lost") lost = message.kind === "lost";
  for (const port of ports) port.postMessage(message);
});

addEventListener("connect", (event) => {
  const [port] = (event as MessageEvent).ports;
  if (!port) return;
  ports.add(port);
  port.onmessage = () => ports.delete(port);
  // A window that comes later missed how the stream began.
  const state: Message[] = [
    { kind: "hello", data: {} },
    { kind: lost ? "lost" : "open", data: null },
  ];
  for (const message of state) port.postMessage(message);
});
