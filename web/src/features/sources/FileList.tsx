/** The rows of the files, chosen by mouse and by keys. */
import { useMemo, useRef } from "react";
import { RowList } from "../../shared/RowList";
import type { FileActions } from "./actions";
import { offered, type Row, select } from "./rows";
import { CHIPS_HEIGHT, chipsOf, ROW_HEIGHT, SourceRow } from "./SourceRow";

type Props = { rows: Row[]; selected: string[]; actions: FileActions };

export function FileList({ rows, selected, actions }: Props) {
  "use no memo"; // what the rows do is looked up when it is done
  const anchor = useRef<string | null>(null);
  const chosen = useMemo(() => new Set(selected), [selected]);
  const choose = (at: number, event: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }) => {
    actions.chooseFiles(select(rows, selected, anchor.current, at, event));
    if (!event.shiftKey) anchor.current = rows[at]?.source.ref ?? null;
  };
  // Rows are drawn again only when they change.
  const act = useRef({ choose, actions });
  act.current = { choose, actions };
  const current = rows.findIndex((row) => row.source.ref === selected.at(-1));
  return (
    <RowList
      label="Files"
      role="grid"
      several
      rows={rows}
      at={current}
      keyOf={(row) => row.source.ref}
      heightOf={(row) =>
        ROW_HEIGHT + CHIPS_HEIGHT * (Number(row.source.problem !== null) + Number(chipsOf(row).length > 0))
      }
      textOf={(row) => row.source.name}
      onMove={choose}
      onKey={(event) => {
        if (event.key === "a" && (event.ctrlKey || event.metaKey))
          actions.chooseFiles(rows.map((row) => row.source.ref));
        else if (event.key === "Enter") {
          const row = rows[current];
          const step = row && offered(row);
          if (step) void actions.add([step]);
        } else if (event.key === "Delete") actions.archiveChosen();
        else return false;
        return true;
      }}
    >
      {(row, number, id, place) => (
        <SourceRow
          id={id}
          number={number + 1}
          row={row}
          {...place}
          selected={chosen.has(row.source.ref)}
          current={number === current}
          onClick={(event) => act.current.choose(number, event)}
          onStep={(step) => void act.current.actions.add([step])}
        />
      )}
    </RowList>
  );
}
