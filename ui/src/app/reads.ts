import { api, ask, type Schemas } from "./api";
import { useRead } from "./read";

// What several rooms read. One room's own reads stand in that room.

export const useMe = () => useRead({ queryKey: ["me"], queryFn: () => ask(api.GET("/api/me")) });
/** Whether the shop has a device; what it has not is typed. */
export const useDevice = (name: Device) => useMe().data?.devices?.includes(name) ?? true;
type Device = NonNullable<Schemas["ShopSignedIn"]["devices"]>[number];
export const usePieces = () => useRead({ queryKey: ["pieces"], queryFn: () => ask(api.GET("/api/pieces")) });
export const usePiece = (code: string | undefined) =>
  useRead({
    queryKey: ["piece", code],
    enabled: !!code,
    queryFn: () => ask(api.GET("/api/pieces/{code}", { params: { path: { code: code ?? "" } } })),
  });
export const useForms = () => useRead({ queryKey: ["forms"], queryFn: () => ask(api.GET("/api/forms")) });
export const useMould = (code: string | undefined) =>
  useRead({
    queryKey: ["mould", code],
    enabled: !!code,
    queryFn: () => ask(api.GET("/api/moulds/one", { params: { query: { code: code ?? "" } } })),
  });
/** What the newest measured scan of a piece says; scan 0 when none is measured. */
export const useFound = (code: string | undefined) =>
  useRead({
    queryKey: ["measured", code],
    enabled: !!code,
    queryFn: () => ask(api.GET("/api/pieces/{code}/measured", { params: { path: { code: code ?? "" } } })),
  });
export const usePots = () => useRead({ queryKey: ["pots"], queryFn: () => ask(api.GET("/api/pots")), refetchInterval: 10_000 });
/** How each shooting day stands by the plan. */
export const useStanding = () => useRead({ queryKey: ["standing"], queryFn: () => ask(api.GET("/api/plan/standing")) });
export const usePlaces = () => useRead({ queryKey: ["places"], queryFn: () => ask(api.GET("/api/places")), refetchInterval: 30_000 });
export const useMaterials = () => useRead({ queryKey: ["materials"], queryFn: () => ask(api.GET("/api/materials")), staleTime: 60_000 });
export const useSubstances = () => useRead({ queryKey: ["substances"], queryFn: () => ask(api.GET("/api/substances")), staleTime: 60_000 });
export const useRegions = () => useRead({ queryKey: ["regions"], queryFn: () => ask(api.GET("/api/regions")), staleTime: 3_600_000 });
export const useCopies = (piece = "") =>
  useRead({ queryKey: ["copies", piece], queryFn: () => ask(api.GET("/api/copies", { params: { query: { piece } } })) });
export const useClock = () => useRead({ queryKey: ["clock"], queryFn: () => ask(api.GET("/api/clock")), refetchInterval: 30_000 });
export const useLayerKinds = () =>
  useRead({ queryKey: ["layer kinds"], queryFn: () => ask(api.GET("/api/layer-kinds")), staleTime: Number.POSITIVE_INFINITY });
export const useMethods = () => useRead({ queryKey: ["methods"], queryFn: () => ask(api.GET("/api/methods")), staleTime: Number.POSITIVE_INFINITY });
export const useRuns = (piece = "") =>
  useRead({ queryKey: ["runs", piece], queryFn: () => ask(api.GET("/api/runs", { params: { query: { piece } } })), refetchInterval: 20_000 });
export const useRun = (code: string) =>
  useRead({ queryKey: ["run", code], queryFn: () => ask(api.GET("/api/runs/{code}", { params: { path: { code } } })), refetchInterval: 10_000 });
/** How the next session of a piece would go. */
export const useOutlook = (code: string) =>
  useRead({ queryKey: ["outlook", code], queryFn: () => ask(api.GET("/api/pieces/{code}/outlook", { params: { path: { code } } })) });
export const useMoulds = (piece: string) =>
  useRead({ queryKey: ["moulds", piece], queryFn: () => ask(api.GET("/api/moulds", { params: { query: { piece } } })) });
/** The makeup artists of the address book. */
export const useArtists = () => useRead({ queryKey: ["artists"], queryFn: () => ask(api.GET("/api/artists")) });
