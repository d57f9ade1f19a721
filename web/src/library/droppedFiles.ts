/** Files of a drop with their folders, read recursively; every file is named by its path from the dropped folder. */
export async function droppedFiles(data: DataTransfer): Promise<File[]> {
  const entries = [...data.items].map((item) => item.webkitGetAsEntry?.() ?? null);
  if (entries.every((entry) => entry === null)) return [...data.files];
  const files: File[] = [];
  for (const entry of entries) if (entry) await collect(entry, '', files);
  return files;
}

async function collect(entry: FileSystemEntry, prefix: string, into: File[]): Promise<void> {
  const path = prefix + entry.name;
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
    into.push(new File([file], path, { type: file.type }));
    return;
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  for (;;) {
    // Browsers hand over a folder in portions and end with an empty one.
    const portion = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (portion.length === 0) return;
    for (const child of portion) if (!child.name.startsWith('.')) await collect(child, `${path}/`, into);
  }
}
