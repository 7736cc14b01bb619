import { api, ask } from '../api/client'
import { SEQUENCE_FROM, type Bundle } from '../stores/uploads'

/** Lets somebody choose files; none when they think better of it. */
export function chooseFiles(folder = false): Promise<File[]> {
  return new Promise((resolve) => {
    const input = document.createElement('input')
    input.type = 'file'
    input.multiple = true
    input.webkitdirectory = folder
    // What a file is the server tells by its content.
    if (!folder) input.accept = 'image/*,video/*,audio/*,.avif,.tif,.tiff,.mkv,.mov,.flac,.opus,.m4a'
    input.onchange = () => resolve([...(input.files ?? [])])
    input.oncancel = () => resolve([])
    input.click()
  })
}

/** Files of a drop, those of dropped folders among them, and whether there was a folder. */
export async function droppedFiles(dt: DataTransfer): Promise<{ files: File[]; folder: boolean }> {
  const entries = [...dt.items].map((i) => i.webkitGetAsEntry?.()).filter((e): e is FileSystemEntry => !!e)
  const plain = [...dt.files]
  if (!entries.some((e) => e.isDirectory)) return { files: plain, folder: false }
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
  return { files: files.filter((f) => !f.name.startsWith('.')), folder: true }
}

/** Sorts files into single ones and numbered pictures that make a clip. */
export async function bundles(files: File[], folder: boolean): Promise<Bundle[]> {
  if (files.length < 2) return files.map((f) => ({ files: [f] }))
  const least = folder ? 3 : SEQUENCE_FROM
  const pictures = files.filter((f) => !/\.(mp4|mov|mkv|webm|m4v|wav|flac|mp3|opus|ogg|m4a)$/i.test(f.name))
  const found = pictures.length < least ? null : await ask(api.POST('/api/sequences/find', { body: { names: pictures.map((f) => f.name) } }))
  const out: Bundle[] = []
  const taken = new Set<File>()
  for (const g of found?.groups ?? []) {
    if (g.files.length < least) continue
    const own = g.files.map((n) => pictures.find((f) => f.name === n)!)
    own.forEach((f) => taken.add(f))
    out.push({ files: own, sequence: { name: g.name, numbers: g.numbers } })
  }
  return [...files.filter((f) => !taken.has(f)).map((f) => ({ files: [f] })), ...out]
}
