import { useSearchParams } from "react-router";
import type { Occasion } from "../api/occasion";

/** The occasion that the address names. */
export function useOccasion(): Occasion {
  const [search] = useSearchParams();
  const sitting = Number(search.get("sitting"));
  return {
    stage: search.get("stage") ?? "",
    sitting: Number.isSafeInteger(sitting) && sitting > 0 ? sitting : 0,
  };
}
