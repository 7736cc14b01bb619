/** What a search finds: text that has every word of it somewhere, in any case. */
export function finder(search: string): (text: string) => boolean {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  return (text) => {
    const low = text.toLowerCase()
    return words.every((w) => low.includes(w))
  }
}
