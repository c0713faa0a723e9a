import { useQuery } from "@tanstack/react-query";
import { api, ask } from "./api";

// What several rooms read. One room's own reads stand in that room.

export const useMe = () => useQuery({ queryKey: ["me"], queryFn: () => ask(api.GET("/api/me")) });
export const usePieces = () => useQuery({ queryKey: ["pieces"], queryFn: () => ask(api.GET("/api/pieces")) });
export const usePiece = (code: string | undefined) =>
  useQuery({
    queryKey: ["piece", code],
    enabled: !!code,
    queryFn: () => ask(api.GET("/api/pieces/{code}", { params: { path: { code: code ?? "" } } })),
  });
export const useForms = () => useQuery({ queryKey: ["forms"], queryFn: () => ask(api.GET("/api/forms")) });
export const useMould = (code: string | undefined) =>
  useQuery({
    queryKey: ["mould", code],
    enabled: !!code,
    queryFn: () => ask(api.GET("/api/moulds/one", { params: { query: { code: code ?? "" } } })),
  });
/** What the newest measured scan of a piece says; scan 0 when none is measured. */
export const useFound = (code: string | undefined) =>
  useQuery({
    queryKey: ["measured", code],
    enabled: !!code,
    queryFn: () => ask(api.GET("/api/pieces/{code}/measured", { params: { path: { code: code ?? "" } } })),
  });
export const usePots = () => useQuery({ queryKey: ["pots"], queryFn: () => ask(api.GET("/api/pots")), refetchInterval: 10_000 });
export const useMaterials = () => useQuery({ queryKey: ["materials"], queryFn: () => ask(api.GET("/api/materials")), staleTime: 60_000 });
export const useRegions = () => useQuery({ queryKey: ["regions"], queryFn: () => ask(api.GET("/api/regions")), staleTime: 3_600_000 });
export const useCopies = (piece = "") =>
  useQuery({ queryKey: ["copies", piece], queryFn: () => ask(api.GET("/api/copies", { params: { query: { piece } } })) });
export const useClock = () => useQuery({ queryKey: ["clock"], queryFn: () => ask(api.GET("/api/clock")), refetchInterval: 30_000 });
export const useLayerKinds = () =>
  useQuery({ queryKey: ["layer kinds"], queryFn: () => ask(api.GET("/api/layer-kinds")), staleTime: Number.POSITIVE_INFINITY });
export const useMethods = () => useQuery({ queryKey: ["methods"], queryFn: () => ask(api.GET("/api/methods")), staleTime: Number.POSITIVE_INFINITY });
