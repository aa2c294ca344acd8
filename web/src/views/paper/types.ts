import type { Schemas } from "../../api/client";

export type Criterion = Schemas["Marked"];
export type Fault = Schemas["Fault"];
/** A paper that has been marked. */
export type MarkedPaper = Schemas["PaperView"] & { result: Schemas["Result"] };

/** A criterion in words: what is asked, of which device, and of what there. */
export const inWords = (own: Criterion) =>
  [own.key, own.device, own.operand, own.instance].filter((word) => word !== "").join(" ");

/** Whether a criterion is a ping or a service check. */
export const isRun = (own: Criterion) => own.key === "ping" || own.key === "check";
export const isCable = (own: Criterion) => own.key === "link" || own.key === "joins";
