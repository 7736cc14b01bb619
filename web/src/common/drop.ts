/** Files of a drop, those of dropped folders among them. */
export async function droppedFiles(dt: DataTransfer): Promise<File[]> {
  const entries = [...dt.items].map((i) => i.webkitGetAsEntry?.()).filter((e): e is FileSystemEntry => !!e)
  const plain = [...dt.files]
  if (!entries.some((e) => e.isDirectory)) return plain
  const files: File[] = []
  const walk = async (e: FileSystemEntry, depth: number): Promise<void> => {
    if (e.isFile) {
      files.push(await new Promise<File>((ok, bad) => (e as FileSystemFileEntry).file(ok, bad)))
    } else if (depth < 8) {
      const r = (e as FileSystemDirectoryEntry).createReader()
      for (;;) {
        // A folder is read in parts of about a hundred.
        const part = await new Promise<FileSystemEntry[]>((ok, bad) => r.readEntries(ok, bad))
        if (!part.length) break
        for (const x of part) await walk(x, depth + 1)
      }
    }
  }
  for (const e of entries) await walk(e, 0)
  return files.filter((f) => !f.name.startsWith('.'))
}
