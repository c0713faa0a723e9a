/** A short name for a new row; told apart from all others, and nothing more. */
export const newId = () => crypto.randomUUID().slice(0, 8);
