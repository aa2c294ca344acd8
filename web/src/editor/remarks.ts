import type { Schemas } from "../api/client";

export type Severity = "error" | "warning" | "note";

/** Something said of a place in a text, with the edit that mends it where that is certain. */
export interface Remark {
  severity: Severity;
  place: string;
  line: number;
  column: number;
  end: number;
  message: string;
  mend: Schemas["MendShape"] | null;
}

/** A finding of the lab check, at its place in the lab's text. */
export const ofFinding = (finding: Schemas["FindingShape"]): Remark => ({
  severity: finding.severity,
  place: finding.place,
  line: finding.at.line,
  column: finding.at.column,
  end: finding.at.end,
  message:
    finding.mend === "" || finding.edit !== null ? finding.message : `${finding.message} ${finding.mend}`,
  mend: finding.edit,
});

/** A diagnostic of a sheet. */
export const ofDiagnostic = (said: Schemas["DiagnosticShape"]): Remark => ({ ...said, place: "" });

/** A place of a lab file that a refusal names. */
export const ofErrorPlace = (error: Schemas["ErrorPlace"]): Remark => ({
  severity: "error",
  place: error.place,
  line: error.line,
  column: error.column,
  end: error.column,
  message: error.message,
  mend: null,
});

/** What a mend does, in words. */
export const mendInWords = ({ text, column, end }: Schemas["MendShape"]) =>
  text.trim() === "" ? "indent the line" : end < column ? `put in ${text.trim()}` : `write ${text.trim()}`;
