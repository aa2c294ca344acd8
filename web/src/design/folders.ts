/** Files that are dropped or chosen, those of folders by their paths: `Ana Weir/weir.sheet`. */

/** A file that bears a path as its name. */
const at = (path: string, file: File) => new File([file], path, { type: file.type });

/** What was chosen as a folder bears its paths. */
export const chosenFiles = (files: Iterable<File>): File[] =>
  [...files].map((file) => (file.webkitRelativePath === "" ? file : at(file.webkitRelativePath, file)));

/** What was dropped; folders are read with all that is in them. */
export async function droppedFiles(transfer: DataTransfer | null): Promise<File[]> {
  const entries = [...(transfer?.items ?? [])].map((item) => item.webkitGetAsEntry());
  if (!entries.some((entry) => entry?.isDirectory)) return [...(transfer?.files ?? [])];
  const found = await Promise.all(
    entries.map((entry) => (entry === null ? Promise.resolve([]) : filesOf(entry, ""))),
  );
  return found.flat();
}

async function filesOf(entry: FileSystemEntry, around: string): Promise<File[]> {
  const path = around + entry.name;
  if (isFile(entry)) return [at(path, await new Promise<File>((take, fail) => entry.file(take, fail)))];
  if (!isFolder(entry)) return [];
  const reader = entry.createReader();
  const found: File[] = [];
  for (;;) {
    // a folder is read by the hundred
    const some = await new Promise<FileSystemEntry[]>((take, fail) => reader.readEntries(take, fail));
    if (some.length === 0) return found;
    found.push(...(await Promise.all(some.map((own) => filesOf(own, `${path}/`)))).flat());
  }
}

const isFile = (entry: FileSystemEntry): entry is FileSystemFileEntry => entry.isFile;
const isFolder = (entry: FileSystemEntry): entry is FileSystemDirectoryEntry => entry.isDirectory;
