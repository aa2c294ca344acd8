import { answered, client, type Schemas } from "../api/client";

export type Look = Schemas["Look"];
type AnyEdit = Schemas["Editing"]["edits"][number];
type Loose<E> = E extends { do: infer D } ? { do: D } & Partial<Omit<E, "do">> : never;

/** An edit as the server makes it; what may be left out is left out. */
export type Edit = Loose<AnyEdit>;
export type SheetAsked = Schemas["SheetAsked"];

/** A text that is worked on. */
export interface WorkedOn {
  text: string;
  stage: string;
  sheet: SheetAsked | null;
}

export const look = (body: WorkedOn) => answered(client.POST("/api/authoring/look", { body }));

export const makeEdits = (body: WorkedOn & { edits: Edit[] }) =>
  answered(client.POST("/api/authoring/edit", { body: body as Schemas["Editing"] }));

export const variantOf = (body: WorkedOn & { values: Record<string, number> }) =>
  answered(client.POST("/api/authoring/variant", { body }));

export const thoughts = (body: WorkedOn & { form: "via" | "out" | "both"; loopbacks: boolean }) =>
  answered(client.POST("/api/authoring/routes", { body }));

export const schemeOf = (body: WorkedOn) => answered(client.POST("/api/authoring/scheme", { body }));

export const pairsOf = (body: WorkedOn) => answered(client.POST("/api/authoring/pairs", { body }));

export const subnetOf = (body: WorkedOn & { typed: string; length: number | null }) =>
  answered(client.POST("/api/authoring/subnet", { body }));

export const journeyOf = (body: Schemas["JourneyAsked"]) =>
  answered(client.POST("/api/authoring/journey", { body }));

export const completeIn = (body: Schemas["SheetInDraft"]) =>
  answered(client.POST("/api/authoring/complete", { body }));

export const keepDraft = (slug: string, window: string, body: { text: string; base: number }) =>
  client.PUT("/api/labs/{slug}/drafts/{window}", { params: { path: { slug, window } }, body });

export const dropDraft = (slug: string, window: string) =>
  client.DELETE("/api/labs/{slug}/drafts/{window}", { params: { path: { slug, window } } });

export const draftsOf = (slug: string) =>
  answered(client.GET("/api/labs/{slug}/drafts", { params: { path: { slug } } }));

export const draftOf = (slug: string, window: string) =>
  answered(client.GET("/api/labs/{slug}/drafts/{window}", { params: { path: { slug, window } } }));

export const saveLab = (slug: string, body: { text: string; base: number }) =>
  answered(client.POST("/api/labs/{slug}/versions", { params: { path: { slug } }, body }));
