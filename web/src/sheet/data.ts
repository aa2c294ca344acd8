import type { Part } from "./highlight";

const JSON_PARTS = /("(?:[^"\\]|\\.)*")(\s*:)?|[^"]+|"/g;
const XML_PARTS = /(<[/?!]?[\w.:-]+|[/?]?>)|[^<>]+|[<>]/g;

/** Divides a line of JSON into the names of members, and what lies between them. */
export function jsonParts(line: string): Part[] {
  return [...line.matchAll(JSON_PARTS)].map(([text, , colon]) => ({
    kind: colon === undefined ? "value" : "word",
    text,
  }));
}

/** Divides a line of XML into tags, and what lies between them. */
export function xmlParts(line: string): Part[] {
  return [...line.matchAll(XML_PARTS)].map(([text, tag]) => ({
    kind: tag === undefined ? "value" : "word",
    text,
  }));
}
