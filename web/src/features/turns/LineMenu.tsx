/** What can be done with the selected lines besides changing their settings. */
import { Menu, Portal } from "@chakra-ui/react";
import { ChevronDown } from "lucide-react";
import { KeyCap } from "../../shared/chips";
import { QuietButton } from "../../shared/parts";

export type LineCommand =
  | "before"
  | "after"
  | "duplicate"
  | "bypass"
  | "enable"
  | "up"
  | "down"
  | "recipe"
  | "copy"
  | "remove";

type Props = {
  /** How many lines it is for. */
  count: number;
  bypassed: boolean;
  /** Whether one file goes into each of them and one comes out. */
  canBypass: boolean;
  /** Whether all of them have what goes into them. */
  savable: boolean;
  onCommand: (command: LineCommand) => void;
};

export function LineMenu({ count, bypassed, canBypass, savable, onCommand }: Props) {
  const lines = count > 1 ? ` ${count} lines` : "";
  const commands: (readonly [LineCommand, string, string, boolean])[] = [
    ["before", "Insert before…", "i", count === 1],
    ["after", "Insert after…", "Shift i", count === 1],
    [bypassed ? "enable" : "bypass", `${bypassed ? "Enable" : "Bypass"}${lines}`, "b", canBypass || bypassed],
    ["duplicate", `Duplicate${lines}`, "", true],
    ["up", `Move${lines} up`, "Alt ↑", true],
    ["down", `Move${lines} down`, "Alt ↓", true],
    ["recipe", "Save as recipe…", "", savable],
    ["copy", `Copy${lines} to another job…`, "", savable],
    ["remove", `Remove${lines}`, "Delete", true],
  ];
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
            {commands.map(([command, label, key, possible]) => (
              <Menu.Item
                key={command}
                value={command}
                disabled={!possible}
                justifyContent="space-between"
                gap={6}
                // The menu gives the focus back as it closes: what moves it comes after that.
                onSelect={() => setTimeout(() => onCommand(command))}
              >
                {label}
                {key && <KeyCap>{key}</KeyCap>}
              </Menu.Item>
            ))}
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}
