import { api, ask } from '../api/client'
import { SEQUENCE_FROM, type Bundle } from './uploads'

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
