import { type QueryClient, type UseQueryOptions, useQuery } from "@tanstack/react-query";
import type { Changes } from "./changes";
import { type Head, touches } from "./topics";

/**
 * Every read of the interface goes through here: its key begins with a word that
 * topics.ts knows, so that hints and acts find it.
 */
export function useRead<T>(options: Omit<UseQueryOptions<T>, "queryKey"> & { queryKey: readonly [Head, ...unknown[]] }) {
  return useQuery<T>(options as UseQueryOptions<T>);
}

/** Reads again what a change touches; `but` is a first word that is up to date already. */
export async function readAgain(queries: QueryClient, changes: Changes = "everything", but?: Head): Promise<void> {
  if (changes.length === 0) return;
  await queries.invalidateQueries({
    predicate: (q) => q.queryKey[0] !== but && (changes === "everything" || touches(q.queryKey, changes)),
  });
}
