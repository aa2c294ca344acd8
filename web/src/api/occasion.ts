/** What papers are handed in for: a sitting by its number, or 0 and a stage of the lab itself; empty is the last one. */
export interface Occasion {
  stage: string;
  sitting: number;
}

/** An address with the occasion that is looked at, and further parameters. */
export function atOccasion(
  path: string,
  { stage, sitting }: Occasion,
  more: Record<string, string> = {},
): string {
  const of: Record<string, string> =
    sitting > 0 ? { sitting: String(sitting) } : stage === "" ? {} : { stage };
  const search = new URLSearchParams({ ...of, ...more }).toString();
  return search === "" ? path : `${path}?${search}`;
}

/** The occasion of a view that tells the sitting it is of. */
export const occasionOf = (view: { stage: string; sitting: { number: number } | null }): Occasion => ({
  stage: view.stage,
  sitting: view.sitting?.number ?? 0,
});
