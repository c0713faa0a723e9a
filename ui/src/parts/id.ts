/** A short name for a new row; told apart from all others, and nothing more. */
export const newId = () => crypto.randomUUID().slice(0, 8);

/** A key with which an act counts once, however often it is sent. */
export const freshKey = () => crypto.randomUUID();
