/** Settings that are saved under a name, for every job. */
import { useState } from "react";
import { useKeptSettingsActions } from "../../api/actions";
import type { DeliverySettings } from "../../api/client";
import { useKeptSettings } from "../../api/queries";
import { ConfirmDelete } from "../../shared/ConfirmDelete";
import { Select } from "../../shared/fields";
import { NameField } from "../../shared/NameField";
import { tell, tellProblem } from "../../shared/notices";
import { QuietButton } from "../../shared/parts";
import { Choice } from "./Choice";

type Props = { settings: DeliverySettings; onSettings: (settings: DeliverySettings) => void };

export function SavedSettings({ settings, onSettings }: Props) {
  const saved = useKeptSettings();
  const { keep, forget } = useKeptSettingsActions();
  const [naming, setNaming] = useState(false);
  const [deleting, setDeleting] = useState(false);
  const all = saved.data ?? [];
  const chosen = all.find((one) => same(one.settings as DeliverySettings, settings));
  const choose = (id: string) => {
    const one = all.find((kept) => kept.id === id);
    if (one) onSettings(one.settings as DeliverySettings);
  };
  const save = (name: string) => {
    setNaming(false);
    if (name)
      keep.mutate(
        { name, settings },
        {
          onSuccess: () => tell(`Saved as ${name}`, "Available in every job."),
          onError: tellProblem,
        },
      );
  };
  return (
    <Choice label="Settings">
      {all.length > 0 && (
        <Select
          label="Saved settings"
          value={chosen?.id ?? ""}
          options={[["", "Custom"], ...all.map((one) => [one.id, one.name] as const)]}
          onChange={choose}
          size="sm"
          width="17rem"
        />
      )}
      {naming ? (
        <NameField label="Name of the settings" value="" size="sm" w="15rem" onKeep={save} />
      ) : (
        <QuietButton onClick={() => setNaming(true)}>Save as…</QuietButton>
      )}
      {chosen && (
        <QuietButton aria-label={`Delete the settings ${chosen.name}`} onClick={() => setDeleting(true)}>
          Delete…
        </QuietButton>
      )}
      {chosen && (
        <ConfirmDelete
          title={`Delete the settings ${chosen.name}?`}
          open={deleting}
          onClose={() => setDeleting(false)}
          onDelete={() => forget.mutate(chosen.id, { onError: tellProblem })}
        >
          They are deleted for every job. Deliveries made with them are kept. This can’t be undone.
        </ConfirmDelete>
      )}
    </Choice>
  );
}

const same = (one: DeliverySettings, other: DeliverySettings) =>
  JSON.stringify(sorted(one)) === JSON.stringify(sorted(other));
const sorted = ({ naming, ...rest }: DeliverySettings) => [
  Object.entries(rest).sort(),
  Object.entries(naming).sort(),
];
