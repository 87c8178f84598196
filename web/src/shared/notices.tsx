/** Short notices that come and go by themselves. */
import { createToaster, Stack, Toast, Toaster } from "@chakra-ui/react";

const toaster = createToaster({ placement: "bottom-end", overlap: false, max: 4 });

/** Tell what went wrong and what to do, once however many requests met it. */
export const tellProblem = (error: unknown) => tellFailure(error, null);

/** The same, with a button that tries it again. */
export function tellFailure(error: unknown, again: (() => void) | null) {
  const message = error instanceof Error ? error.message : String(error);
  const help = error instanceof Error && "help" in error ? String(error.help) : "";
  if (toaster.isVisible(message)) return;
  toaster.create({
    id: message,
    type: "error",
    title: message,
    description: help,
    duration: 12_000,
    closable: true,
    ...(again && { action: { label: "Try again", onClick: again } }),
  });
}

/** Tell something worth a glance. */
export function tell(title: string, description: string) {
  toaster.create({ type: "info", title, description, duration: 5_000, closable: true });
}

export function Notices() {
  return (
    <Toaster toaster={toaster}>
      {(toast) => (
        <Toast.Root width={{ base: "full", md: "sm" }} role={toast.type === "error" ? "alert" : "status"}>
          <Stack gap={1} flex={1} minW={0}>
            <Toast.Title overflowWrap="anywhere">{toast.title}</Toast.Title>
            {toast.description && (
              <Toast.Description layerStyle="quiet">{toast.description}</Toast.Description>
            )}
          </Stack>
          {toast.action && <Toast.ActionTrigger>{toast.action.label}</Toast.ActionTrigger>}
          <Toast.CloseTrigger aria-label="Close" />
        </Toast.Root>
      )}
    </Toaster>
  );
}
