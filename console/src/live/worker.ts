/// <reference lib="webworker" />
import '../../made/go.js'
import code from '../../made/bench.wasm.gz?url'
import type { Answer, Control, Doing, Request } from './protocol'
import { Pace } from './pace'

// The simulation, off the page's own thread. Time goes by in slices; between them messages are taken, so that an input
// happens at the end of a slice.

interface Bench {
  read: (exercise: string, wiring: string, firmware: Uint8Array) => string
  begin: (trial: number, way: 'hand' | 'taken') => string
  takeOver: () => string
  check: (name: string, marks: boolean) => string
  advance: (until: number) => string
  displays: () => string
  serial: () => string
  do: (control: number, release: boolean, to: string) => string
}

const scope = self as unknown as DedicatedWorkerGlobalScope & { bench: Bench; Go: new () => GoRuntime }

interface GoRuntime {
  importObject: WebAssembly.Imports
  run: (instance: WebAssembly.Instance) => Promise<void>
}

const say = (a: Answer) => scope.postMessage(a)

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
  const go = new scope.Go()
  const { instance } = await WebAssembly.instantiate(bytes, go.importObject)
  void go.run(instance)
})()

const pace = new Pace()
let opened = false
let running = false
let now = 0
let stop = ''
let displays = '' // as they were told last
let lines = false // a terminal is among the displays
let waiting = 0 // a timer
let controls: Control[] = []
let done: Doing[] = [] // since power-on

// advance lets time go by for at most 8 ms of real time, and gives whether that was enough.
function advance(until: number) {
  const began = performance.now()
  while (now < until && performance.now() - began < 8) {
    const before = performance.now()
    const state = told<{ now: number; stop: string }>(scope.bench.advance(Math.min(until, now + pace.slice)))
    pace.took(performance.now() - before)
    now = state.now
    stop = state.stop
  }
  return now >= until
}

function show() {
  const text = scope.bench.displays()
  const changed = text !== displays
  displays = text
  const serial = changed && lines ? told<string>(scope.bench.serial()) : undefined
  say({
    kind: 'shown',
    now,
    displays: changed ? JSON.parse(text) : undefined,
    serial,
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
  waiting = scope.setTimeout(tick, pace.behind ? 0 : 12)
}

// keep notes what was done, for a trial that is made of it; no trial takes more.
function keep({ control, release = false, to }: Extract<Request, { kind: 'do' }>) {
  if (done.length > 1000) return
  const { part, verb, of, by } = controls[control]
  done.push({ at: now * 1000, part, verb, release, of, by, to })
}

function answer(m: Request) {
  switch (m.kind) {
    case 'open': {
      const trials = told<string[]>(scope.bench.read(m.exercise, m.wiring, new Uint8Array(m.firmware)))
      const bench = told<Extract<Answer, { kind: 'opened' }>['bench']>(
        scope.bench.begin(m.trial, m.from > 0 ? 'taken' : 'hand'),
      )
      opened = true
      lines = bench.displays.some((t) => t.geometry.type === 'lines')
      controls = bench.controls
      done = []
      now = 0
      stop = ''
      displays = ''
      while (now < m.from && !stop) {
        const state = told<{ now: number; stop: string }>(scope.bench.advance(Math.min(m.from, now + 50e6)))
        now = state.now
        stop = state.stop
      }
      if (m.from > 0) told(scope.bench.takeOver())
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
      told(scope.bench.do(m.control, m.release ?? false, m.to ?? ''))
      keep(m)
      return
    case 'check':
      running = false
      show()
      return say({ kind: 'checked', tried: told(scope.bench.check(m.name, m.marks)) })
    case 'end':
      running = false
      show()
      return say({ kind: 'ended', length: now * 1000, done })
  }
}

scope.onmessage = async (e: MessageEvent<Request>) => {
  try {
    await ready
    answer(e.data)
  } catch (error) {
    running = false
    say({ kind: 'failed', error: error instanceof Error ? error.message : String(error) })
  }
}
