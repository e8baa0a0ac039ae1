import { renderToStaticMarkup } from 'react-dom/server'
import { expect, test } from 'vitest'
import type { Geometry, State } from '../types'
import table from '../../../render/testdata/drawings.json'
import { Display } from './Display'

// What the service draws of each display (render/testdata/drawings.json): the console has to draw the same.
interface Case {
  name: string
  geometry: Geometry
  custom?: number[][]
  state: State
  svg: string
}
const { rom, cases } = table as unknown as { rom: number[][]; cases: Case[] }

const number = (text = '0') => Math.round(Number(text) * 100) / 100

// squares returns where a path of equal squares has them.
function squares(d: string, attributes: Record<string, string>): string[] {
  return d
    .split('M')
    .filter(Boolean)
    .map((part) => {
      const [, x, y, side] = /^([-\d.]+)[ ,]([-\d.]+)h([-\d.]+)v[-\d.]+h-[-\d.]+z$/.exec(part)!
      return `${number(x)} ${number(y)} ${number(side)} ${attributes.opacity}`
    })
}

// picture is what can be seen of an SVG document: its shapes in order, and of squares the last that covers a place. Where
// a drawing begins and how large it is, is its frame's.
function picture(svg: string) {
  const shapes: string[] = []
  const dots = new Map<string, string>()
  for (const [, tag, text, words] of svg.matchAll(
    /<(rect|circle|polygon|path|text)\b([^>]*?)(?:\/>|>(?:([^<]*)<\/\w+>)?)/g,
  )) {
    const a = Object.fromEntries([...text.matchAll(/([\w-]+)="([^"]*)"/g)].map(([, key, value]) => [key, value]))
    if (tag === 'path') {
      for (const s of squares(a.d, { opacity: '' })) dots.set(s, `${a.fill} ${number(a['fill-opacity'] ?? '1')}`)
      continue
    }
    if (a.fill === 'transparent') continue
    for (const key of [
      'x',
      'y',
      'rx',
      'r',
      'cx',
      'cy',
      'width',
      'height',
      'stroke-width',
      'stroke-opacity',
      'fill-opacity',
      'font-size',
    ])
      if (a[key]) a[key] = String(number(a[key]))
    if (a['stroke-width'] === '1') delete a['stroke-width'] // as it is where nothing says so
    if (a.points) a.points = a.points.split(/[ ,]/).map(number).join(' ')
    for (const key of ['x', 'y', 'rx']) if (a[key] === '0') delete a[key]
    shapes.push(
      [
        tag,
        words ?? '',
        ...Object.keys(a)
          .sort()
          .map((key) => `${key}=${a[key]}`),
      ].join(' '),
    )
  }
  return { shapes, dots: Object.fromEntries([...dots].sort()) }
}

test('every display is drawn as the service draws it', () => {
  expect(cases.length).toBeGreaterThan(30)
  for (const c of cases) {
    const own = picture(
      renderToStaticMarkup(<Display geometry={c.geometry} state={c.state} custom={c.custom} rom={rom} label="x" />),
    )
    const its = picture(c.svg)
    its.shapes.shift() // the well around it
    expect(own, c.name).toEqual(its)
  }
})
