import { type QueryClient, type UseQueryOptions, useQuery } from "@tanstack/react-query";
import { type Head, type Topic, touches } from "./topics";

/**
 * Every read of the interface goes through here: its key begins with a word that
 * topics.ts knows, so that hints and acts find it.
 */
export function useRead<T>(options: Omit<UseQueryOptions<T>, "queryKey"> & { queryKey: readonly [Head, ...unknown[]] }) {
  return useQuery<T>(options as UseQueryOptions<T>);
}

/** Reads again what a change of these topics touches; of all when none are named. */
export function readAgain(queries: QueryClient, topics: Iterable<Topic | string> = []): Promise<void> {
  const changed = new Set<string>(topics);
  return queries.invalidateQueries(changed.size > 0 ? { predicate: (q) => touches(q.queryKey[0], changed) } : undefined);
}
