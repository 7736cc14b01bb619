// Prints docs/keys.md from the table of commands that the page itself uses.
import { createServer } from 'vite'

const vite = await createServer({ server: { middlewareMode: true, hmr: false, ws: false }, appType: 'custom', logLevel: 'error' })
const { listed } = await vite.ssrLoadModule('/src/common/commands.ts')
await vite.close()

const out = ['# Keys', '', '`?` shows them in the application. This page is made from the same table (`make reference`).', '']
for (const g of listed()) {
  out.push(`## ${g.title}`, '', '| keys | do |', '| --- | --- |')
  for (const l of g.lines) out.push(`| ${l.keys.map((k) => `\`${k}\``).join(', ')} | ${l.text} |`)
  out.push('')
}
process.stdout.write(out.join('\n').trimEnd() + '\n')
