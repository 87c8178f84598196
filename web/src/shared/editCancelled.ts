/** Why an edit was not made: it was undone before it was sent. Nobody needs to be told. */
export class EditCancelled extends Error {}
