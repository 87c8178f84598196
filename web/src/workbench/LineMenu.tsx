/** What can be done with the selected lines besides changing their settings. */
import { Menu, Portal } from "@chakra-ui/react";
import { ChevronDown } from "lucide-react";
import { useCallback } from "react";
import { Keys } from "../shared/commands";
import { QuietButton } from "../shared/parts";
import { COMMANDS, type Command, type CommandId } from "./commands";
import { useBench, useCan, useSelectedLines, useWorkbench } from "./useWorkbench";

export function LineMenu() {
  const count = useSelectedLines().length;
  const bench = useBench();
  const bypassed = useWorkbench(useCallback(() => bench.bypassed, [bench]));
  const lines = count > 1 ? ` ${count} lines` : "";
  return (
    <Menu.Root positioning={{ placement: "bottom-end" }}>
      <Menu.Trigger asChild>
        <QuietButton>
          {count > 1 ? `${count} lines` : "Line"} <ChevronDown size={12} />
        </QuietButton>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="raised.high" borderWidth={1} borderColor="line">
            <Item id="insertBefore" label="Insert before…" />
            <Item id="insertAfter" label="Insert after…" />
            <Item id="bypass" label={`${bypassed ? "Enable" : "Bypass"}${lines}`} />
            <Item id="duplicate" label={`Duplicate${lines}`} />
            <Item id="moveUp" label={`Move${lines} up`} />
            <Item id="moveDown" label={`Move${lines} down`} />
            <Item id="saveRecipe" label="Save as recipe…" />
            <Item id="copyLines" label={`Copy${lines} to another job…`} />
            <Item id="remove" label={`Remove${lines}`} />
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}

function Item({ id, label }: { id: CommandId; label: string }) {
  const bench = useBench();
  const can = useCan(id);
  const { run }: Command = COMMANDS[id];
  return (
    <Menu.Item
      value={id}
      disabled={!can}
      justifyContent="space-between"
      gap={6}
      // The menu gives the focus back as it closes: what moves it comes after that.
      onSelect={() => setTimeout(() => run?.(bench))}
    >
      {label}
      <Keys of={id} />
    </Menu.Item>
  );
}
