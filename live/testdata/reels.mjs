// Runs trials on the bench as a page has it, in slices, and prints the digest of each reel.
// node reels.mjs wasm_exec.js bench.wasm, with a list of {exercise, firmware, trial, length} on standard input.
import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { pathToFileURL } from 'node:url'

await import(pathToFileURL(process.argv[2]))
const go = new globalThis.Go()
const { instance } = await WebAssembly.instantiate(readFileSync(process.argv[3]), go.importObject)
go.run(instance)

const slice = 37e6 // ns
const told = (text) => {
  const v = JSON.parse(text)
  if (v && v.error) throw new Error(v.error)
  return v
}
for (const job of JSON.parse(readFileSync(0, 'utf8'))) {
  const firmware = job.firmware ? readFileSync(job.firmware) : new Uint8Array()
  told(globalThis.bench.read(readFileSync(job.exercise, 'utf8'), '', firmware))
  told(globalThis.bench.begin(job.trial, 'cues', false))
  for (let now = 0; now < job.length; ) now = told(globalThis.bench.advance(Math.min(now + slice, job.length))).now
  console.log(createHash('sha256').update(globalThis.bench.reel()).digest('hex'))
}
process.exit(0)
