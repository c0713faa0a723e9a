import { api, ask, type Schemas } from "../../app/api";
import { useRead } from "../../app/read";

export type Copy = Schemas["FinishCopy"];
export type Shot = Schemas["CheckShot"];
export type About = Schemas["CheckAbout"];
export type Measured = Schemas["CheckMeasured"];

/** A copy with its list of work and its verdicts. */
export const useCopy = (code: string) =>
  useRead({ queryKey: ["copy", code], queryFn: () => ask(api.GET("/api/copies/{code}", { params: { path: { code } } })) });

/** Its pictures, and what they can be laid over. */
export const useBeside = (code: string) =>
  useRead({ queryKey: ["beside", code], queryFn: () => ask(api.GET("/api/copies/{code}/beside", { params: { path: { code } } })) });

/** What the brief will not have left out, and its agreed wishes, as they were seen on the copy. */
export const useFeatures = (code: string) =>
  useRead({ queryKey: ["features", code], queryFn: () => ask(api.GET("/api/copies/{code}/features", { params: { path: { code } } })) });

export const useFaults = (code: string) =>
  useRead({ queryKey: ["faults", code], queryFn: () => ask(api.GET("/api/copies/{code}/faults", { params: { path: { code } } })) });
