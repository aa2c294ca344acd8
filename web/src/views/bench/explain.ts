import type { BenchLook } from "../../bench/Bench";

/** Finds whose address a word is. */
export function ownerOf(
  word: string,
  look: BenchLook | null,
): { device: string; port: string; address: string } | null {
  const address = word.split("/")[0] ?? "";
  for (const [device, state] of Object.entries(look?.states ?? {}))
    for (const port of state.ports)
      for (const own of port.addresses)
        if (own.split("/")[0] === address) return { device, port: port.name, address: own };
  return null;
}

const number = (address: string) => address.split(".").reduce((sum, part) => sum * 256 + Number(part), 0);
const written = (value: number) => [24, 16, 8, 0].map((at) => Math.floor(value / 2 ** at) % 256).join(".");

/** Says what an address or prefix is: its network, first and last, the other form of the mask, whose it is. */
export function explained(word: string, look: BenchLook | null): string | null {
  if (!/^\d+\.\d+\.\d+\.\d+(\/\d+)?$/.test(word)) return null;
  const owner = ownerOf(word, look);
  const [address = "", typed] = word.split("/");
  const length = Number(typed ?? owner?.address.split("/")[1] ?? NaN);
  const said = owner ? [`${owner.device} ${owner.port}`] : ["nobody's address"];
  if (Number.isInteger(length) && length <= 32) {
    const size = 2 ** (32 - length);
    const first = Math.floor(number(address) / size) * size;
    said.push(`network ${written(first)}/${length}, mask ${written(2 ** 32 - size)}`);
    if (size > 2) said.push(`${written(first + 1)} to ${written(first + size - 2)}`);
  }
  return said.join(" · ");
}
