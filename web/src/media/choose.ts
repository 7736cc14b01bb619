import { api, ask } from '../api/client'
import { useAsking } from './asking'
import type { Bundle } from './uploads'

const media = 'image/*,video/*,audio/*,.avif,.tif,.tiff,.mkv,.mov,.flac,.opus,.m4a'
const fonts = '.ttf,.otf,.woff,.woff2'

/** Lets somebody choose files; none when they think better of it. */
export function chooseFiles(folder = false, kind: 'media' | 'fonts' = 'media'): Promise<File[]> {
  return new Promise((resolve) => {
    const input = document.createElement('input')
    input.type = 'file'
    input.multiple = true
    input.webkitdirectory = folder
    // What a file is the server tells by its content.
    if (!folder) input.accept = kind === 'fonts' ? fonts : `${media},${fonts}`
    input.onchange = () => resolve([...(input.files ?? [])])
    input.oncancel = () => resolve([])
    input.click()
  })
}

/** From so many on, numbered pictures may be a clip. */
const NUMBERED = 3

/** Sorts files into single ones and numbered pictures that make a clip, which is asked; nothing when nothing is to come in. */
export async function bundles(files: File[]): Promise<Bundle[]> {
  if (files.length < NUMBERED) return files.map((f) => ({ files: [f] }))
  const pictures = files.filter((f) => !/\.(mp4|mov|mkv|webm|m4v|wav|flac|mp3|opus|ogg|m4a|ttf|otf|woff2?)$/i.test(f.name))
  const body = { names: pictures.map((f) => f.name), changed: pictures.map((f) => f.lastModified) }
  const found = pictures.length < NUMBERED ? null : await ask(api.POST('/api/sequences/find', { body }))
  const groups = (found?.groups ?? []).filter((g) => (g.files ?? []).length >= NUMBERED)
  const choices = groups.length ? await useAsking().ask(groups) : []
  if (!choices) return []
  const out: Bundle[] = []
  const taken = new Set<File>()
  groups.forEach((g, i) => {
    if (!choices[i]?.clip) return
    const own = (g.files ?? []).map((n) => pictures.find((f) => f.name === n)!)
    own.forEach((f) => taken.add(f))
    out.push({ files: own, sequence: { name: g.name, numbers: g.numbers ?? [], apart: choices[i]!.apart } })
  })
  return [...files.filter((f) => !taken.has(f)).map((f) => ({ files: [f] })), ...out]
}
