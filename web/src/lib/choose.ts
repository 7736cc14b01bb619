/** Lets somebody choose files; none when they think better of it. */
export function chooseMedia(): Promise<File[]> {
  return new Promise((resolve) => {
    const input = document.createElement('input')
    input.type = 'file'
    input.multiple = true
    input.accept = '.png,.jpg,.jpeg,.svg,.mp4,.m4v,image/png,image/jpeg,image/svg+xml,video/mp4'
    input.onchange = () => resolve([...(input.files ?? [])])
    input.oncancel = () => resolve([])
    input.click()
  })
}
