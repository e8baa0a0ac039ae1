/// <reference lib="webworker" />
import '../../made/go.js'
import code from '../../made/bench.wasm.gz?url'
import type { Answer, Description, Doing, Request, Scope, Shown, Trace } from './protocol'
import { Pace } from './pace'

// The simulation, off the page's own thread. Time goes by in slices; between them messages are taken, so that an input
// happens at the end of a slice.

interface Bench {
  read: (exercise: string, wiring: string, firmware: Uint8Array) => string
  begin: (trial: number, way: 'hand' | 'handed', probe: boolean) => string
  edge: (until: number) => string
  scope: (from: number, to: number, columns: number) => string
  driven: () => string
  byHand: () => string
  check: (name: string, marks: boolean) => string
  advance: (until: number) => string
  displays: () => string
  serial: () => string
  do: (control: number, release: boolean, to: string) => string
}

const page = self as unknown as DedicatedWorkerGlobalScope & { bench: Bench; Go: new () => GoRuntime }

interface GoRuntime {
  importObject: WebAssembly.Imports
  run: (instance: WebAssembly.Instance) => Promise<void>
}

const say = (a: Answer) => page.postMessage(a)

// told reads what the bench gives.
function told<T>(text: string): T {
  const v = JSON.parse(text)
  if (v?.error) throw new Error(v.error)
  return v as T
}

const ready = (async () => {
  const response = await fetch(code)
  if (!response.ok || !response.body) throw new Error(`The bench could not be loaded (${response.status}).`)
  const bytes = await new Response(response.body.pipeThrough(new DecompressionStream('gzip'))).arrayBuffer()
  const go = new page.Go()
  const { instance } = await WebAssembly.instantiate(bytes, go.importObject)
  void go.run(instance)
})()

const pace = new Pace()
let opened = false
let running = false
let now = 0
let stop = ''
let displays = '' // as they were told last
let each: Record<string, string> = {} // the same, one by one
let lines = false // a terminal is among the displays
let waiting = 0 // a timer
let origin: { trial: number; from: number } = { trial: 0, from: 0 }
let controls: Description['controls'] = []
let done: Doing[] = [] // since power-on
let inputs: { at: number; control: number; release: boolean; to: string }[] = [] // the same, to be done again
let probed = false
let driven = false // displays are shown as driven
let scope: Scope | undefined
let scoped = 0 // when the scope was told last

// advance lets time go by for at most 8 ms of real time, and gives whether that was enough.
function advance(until: number) {
  until = Math.floor(until) // whole ns: the bench comes to them exactly, and to no fraction
  const began = performance.now()
  while (now < until && performance.now() - began < 8) {
    const before = performance.now()
    const state = told<{ now: number; stop: string }>(page.bench.advance(Math.min(until, now + pace.slice)))
    pace.took(performance.now() - before)
    now = state.now
    stop = state.stop
  }
  return now >= until
}

// traces are those of the scope, ten times a second, or at once where time stands.
function traces(): { traces?: Trace[]; until?: number } {
  if (!scope || !probed || (running && performance.now() - scoped < 100)) return {}
  scoped = performance.now()
  const until = scope.end ?? now
  return { traces: told<Trace[]>(page.bench.scope(Math.max(0, until - scope.width), until, scope.columns)), until }
}

// forget has all displays told again.
function forget() {
  displays = ''
  each = {}
}

// changes are the displays that show something else than was told.
function changes(text: string): Shown[] {
  return (JSON.parse(text) as Shown[]).filter((d) => {
    const now = JSON.stringify([d.custom, d.frames.map((f) => [f.text, f.state])])
    const same = each[d.display] === now
    each[d.display] = now
    return !same
  })
}

function show() {
  const text = driven && probed ? page.bench.driven() : page.bench.displays()
  const changed = text !== displays
  displays = text
  const serial = changed && lines ? told<string>(page.bench.serial()) : undefined
  say({
    kind: 'shown',
    now,
    displays: changed ? changes(text) : undefined,
    serial,
    ...traces(),
    share: pace.share,
    running,
    stop,
  })
  return changed
}

function tick() {
  waiting = 0
  if (!running) return
  const target = pace.target(performance.now(), now)
  pace.reached(advance(target), now)
  show()
  waiting = page.setTimeout(tick, pace.behind ? 0 : 15)
}

// keep notes what was done, for a trial that is made of it; no trial takes more.
function keep({ control, release = false, to }: Extract<Request, { kind: 'do' }>) {
  if (done.length > 1000) return
  const { part, verb, of, by } = controls[control]
  done.push({ at: Math.round(now * 1000), part, verb, release, of, by, to })
  inputs.push({ at: now, control, release, to: to ?? '' })
}

// power switches the bench on, and brings it to where it was to begin.
function power(probe: boolean) {
  probed = probe
  const bench = told<Description>(page.bench.begin(origin.trial, origin.from > 0 ? 'handed' : 'hand', probe))
  controls = bench.controls
  lines = bench.displays.some((t) => t.geometry.type === 'lines')
  now = 0
  stop = ''
  forget()
  reach(origin.from)
  if (origin.from > 0) told(page.bench.byHand())
  return bench
}

// reach lets time go by up to a moment, as fast as it goes.
function reach(moment: number) {
  while (now < moment && !stop) {
    const state = told<{ now: number; stop: string }>(page.bench.advance(Math.min(moment, now + 50e6)))
    now = state.now
    stop = state.stop
  }
}

// probe puts a probe to the bench, or takes it away: the same run from power-on, with the same hands at the same times.
function probe(on: boolean) {
  const until = now
  power(on)
  for (const i of inputs) {
    reach(i.at)
    told(page.bench.do(i.control, i.release, i.to))
  }
  reach(until)
  pace.begin(performance.now(), now)
}

function answer(m: Request) {
  switch (m.kind) {
    case 'open': {
      const trials = told<string[]>(page.bench.read(m.exercise, m.wiring, new Uint8Array(m.firmware)))
      origin = { trial: m.trial, from: m.from }
      done = []
      inputs = []
      const bench = power(probed)
      opened = true
      pace.begin(performance.now(), now)
      return say({ kind: 'opened', trials, bench })
    }
    case 'run':
      running = m.running && opened
      pace.begin(performance.now(), now)
      if (running && !waiting) tick()
      else if (opened) show()
      return
    case 'speed':
      pace.speed = m.speed
      return pace.begin(performance.now(), now)
    case 'step': {
      running = false
      const end = now + 60e9 // as far as is looked for
      const began = performance.now()
      do advance(Math.min(end, now + 1e6))
      while (!show() && now < end && performance.now() - began < 2000)
      return
    }
    case 'do':
      told(page.bench.do(m.control, m.release ?? false, m.to ?? ''))
      keep(m)
      return
    case 'edge': {
      running = false
      const state = told<{ now: number; stop: string }>(page.bench.edge(now + 10e9))
      now = state.now
      stop = state.stop
      show()
      return
    }
    case 'look': {
      driven = m.driven
      scope = m.scope
      scoped = 0
      const wanted = driven || !!scope
      if (opened && wanted !== probed) probe(wanted)
      forget()
      probed = opened ? probed : wanted
      if (opened) show()
      return
    }
    case 'check':
      running = false
      show()
      return say({ kind: 'checked', tried: told(page.bench.check(m.name, m.marks)) })
    case 'end':
      running = false
      show()
      return say({ kind: 'ended', length: Math.round(now * 1000), done })
  }
}

page.onmessage = async (e: MessageEvent<Request>) => {
  try {
    await ready
    answer(e.data)
  } catch (error) {
    running = false
    say({ kind: 'failed', error: error instanceof Error ? error.message : String(error) })
  }
}
