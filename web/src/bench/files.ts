import { answered, client, type Schemas } from "../api/client";

type Form = Schemas["BenchFile"]["form"];

const SUFFIX: Record<Form, string> = { sheets: "zip", namespaces: "sh", packets: "pcapng" };

/** Has a bench made into a file, and hands it to the browser to keep; the packets of all pings where none is named. */
export async function keepFile(slug: string, bench: Schemas["OnBench"], form: Form, number = 0) {
  const body = { ...bench, form, number, port: "" };
  const content = await answered(client.POST("/api/bench/file", { body, parseAs: "blob" }));
  const link = document.createElement("a");
  link.href = URL.createObjectURL(content);
  link.download = `${slug}-bench${number === 0 ? "" : `-ping-${number}`}.${SUFFIX[form]}`;
  link.click();
  URL.revokeObjectURL(link.href);
}
