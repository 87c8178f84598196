/** What can be done with the selected lines besides changing their settings. */
import { Menu, Portal } from "@chakra-ui/react";
import { ChevronDown } from "lucide-react";
import { useCallback } from "react";
import { Keys } from "../shared/commands";
import { QuietButton } from "../shared/parts";
import type { Command } from "./command";
import { COMMANDS, type CommandId, commands } from "./commands";
import { useBench, useCanRun, useSelectedLines, useWorkbench } from "./useWorkbench";

export function LineMenu() {
  const count = useSelectedLines().length;
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
          <Menu.Content layerStyle="floating">
            {commands.map(([id, { menu }]) => menu && <Item key={id} id={id} lines={lines} />)}
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}

function Item({ id, lines }: { id: CommandId; lines: string }) {
  const bench = useBench();
  const can = useCanRun(id);
  const { run, menu }: Command = COMMANDS[id];
  const label = useWorkbench(useCallback(() => menu?.(lines, bench) ?? "", [menu, lines, bench]));
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
