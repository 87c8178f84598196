/** Where the focus goes when a command sends it to a field, and where it goes back to. */
export type Field = "turn" | "filter";

export class FocusReturn {
  private fields: Partial<Record<Field, HTMLElement | null>> = {};
  private before: HTMLElement | null = null;

  /** A ref that tells which element a field is, as long as it is on the page. */
  setField = (field: Field) => (element: HTMLElement | null) => {
    this.fields[field] = element;
  };

  /** Send the focus to a field. */
  focusField(field: Field) {
    const active = document.activeElement;
    this.before = active instanceof HTMLElement && active !== document.body ? active : null;
    this.fields[field]?.focus();
  }

  /** Send the focus back to where it was; where that was nowhere, the page has the keys. */
  returnFocus() {
    const { activeElement } = document;
    const { before } = this;
    this.before = null;
    if (before?.isConnected) before.focus();
    else if (activeElement instanceof HTMLElement) activeElement.blur();
  }
}
