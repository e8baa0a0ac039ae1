/// <reference lib="webworker" />
import '../../made/go.js'
import code from '../../made/bench.wasm.gz?url'
import type { Answer, Description, Doing, Port, Request, Scope, Shown, Trace } from './protocol'
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
  sure: () => string
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
let displays: Record<string, string> = {} // as they were told last
let transmitted = 0 // bytes that the serial ports sent
let heard = 0 // of them, how many the page was told
let waiting = 0 // a timer
let worked = 0 // when hands did something last
let origin: { trial: number; from: number } = { trial: 0, from: 0 }
let controls: Description['controls'] = []
let inputs: { at: number; control: number; release: boolean; to: string }[] = [] // since power-on
let probed = false
let driven = false // displays are shown as driven
let scope: Scope | undefined
let scoped = 0 // when the scope was told last

// came takes how far time has come, and why the program stopped.
function came(answer: string) {
  const state = told<{ now: number; stop: string; transmitted: number }>(answer)
  now = state.now
  stop = state.stop
  transmitted = state.transmitted
}

// advance lets time go by for at most 8 ms of real time, and gives whether that was enough.
function advance(until: number) {
  until = Math.floor(until) // whole ns: the bench comes to them exactly, and to no fraction
  const began = performance.now()
  while (now < until && performance.now() - began < 8) {
    const before = performance.now()
    came(page.bench.advance(Math.min(until, now + pace.slice)))
    pace.took(performance.now() - before)
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

// looks is what a display looks like, without its times, which are those of the moment.
const looks = (d: Shown) => JSON.stringify([d.custom, d.frames.map((f) => [f.text, f.state])])

// changes are the displays that look different than was told.
function changes(now: Shown[]): Shown[] {
  return now.filter((d) => {
    const look = looks(d)
    const same = displays[d.display] === look
    displays[d.display] = look
    return !same
  })
}

// seen are the displays now: as they are driven, or seen, or only as far as that is sure.
const seen = (sure = false) =>
  told<Shown[]>(driven && probed ? page.bench.driven() : sure ? page.bench.sure() : page.bench.displays())

// step goes on to what a display comes to show, and is there for long enough to be sure of.
function step() {
  const end = now + 60e9 // as far as is looked for
  const began = performance.now()
  const before = new Map(seen(true).map((d) => [d.display, looks(d)]))
  for (;;) {
    advance(Math.min(end, now + 1e6))
    const after = seen(true)
    const came = after.some((d) => ![before.get(d.display), displays[d.display]].includes(looks(d)))
    if (came || now >= end || performance.now() - began > 2000) return show(after)
  }
}

// show tells the page what is different.
function show(displays = seen()) {
  const more = transmitted !== heard
  heard = transmitted
  say({
    kind: 'shown',
    now,
    displays: changes(displays),
    serial: more ? told<Port[]>(page.bench.serial()) : undefined,
    ...traces(),
    share: pace.share,
    running,
    stop,
  })
}

function tick() {
  waiting = 0
  if (!running) return
  const target = pace.target(performance.now(), now)
  pace.reached(advance(target), now)
  show()
  waiting = page.setTimeout(tick, pace.behind ? 0 : performance.now() - worked < 100 ? 8 : 15)
}

// power switches the bench on, and brings it to where it was to begin.
function power(probe: boolean) {
  probed = probe
  const bench = told<Description>(page.bench.begin(origin.trial, origin.from > 0 ? 'handed' : 'hand', probe))
  controls = bench.controls
  now = 0
  stop = ''
  displays = {}
  transmitted = heard = 0
  reach(origin.from)
  if (origin.from > 0) told(page.bench.byHand())
  return bench
}

// reach lets time go by up to a moment, as fast as it goes.
function reach(moment: number) {
  while (now < moment && !stop) came(page.bench.advance(Math.min(moment, now + 50e6)))
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

const picoseconds = (ns: number) => Math.round(ns * 1000)

// doing is an input as a trial is made of it.
function doing({ at, control, release, to }: (typeof inputs)[number]): Doing {
  const { part, verb, of, by } = controls[control]
  return { at: picoseconds(at), part, verb, release, of, by, to }
}

function answer(m: Request) {
  switch (m.kind) {
    case 'open': {
      const trials = told<string[]>(page.bench.read(m.exercise, m.wiring, new Uint8Array(m.firmware)))
      origin = { trial: m.trial, from: m.from }
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
    case 'step':
      running = false
      return step()
    case 'do': {
      const input = { at: now, control: m.control, release: m.release ?? false, to: m.to ?? '' }
      told(page.bench.do(input.control, input.release, input.to))
      inputs.push(input)
      worked = performance.now()
      if (waiting) {
        page.clearTimeout(waiting) // it is felt at once
        tick()
      }
      return
    }
    case 'edge': {
      running = false
      came(page.bench.edge(now + 10e9))
      show()
      return
    }
    case 'look': {
      driven = m.driven
      scope = m.scope
      scoped = 0
      const wanted = driven || !!scope
      if (!opened) {
        probed = wanted // when it is
        return
      }
      if (wanted !== probed) probe(wanted)
      displays = {}
      show()
      return
    }
    case 'check':
      running = false
      show()
      return say({ kind: 'checked', tried: told(page.bench.check(m.name, m.marks)) })
    case 'end':
      running = false
      show()
      return say({ kind: 'ended', length: picoseconds(now), done: inputs.map(doing) })
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
