import { expect, test } from 'vitest'
import { Pace } from './pace'

test('time follows real time by the speed', () => {
  const p = new Pace()
  p.speed = 2
  p.begin(1000, 0)
  expect(p.target(1010, 0)).toBe(20e6)
  p.reached(true, 20e6)
  expect(p.share).toBe(1)
  expect(p.behind).toBe(false)
})

test('what could not be simulated is not made up for', () => {
  const p = new Pace()
  p.begin(0, 0)
  expect(p.target(10, 0)).toBe(10e6)
  p.reached(false, 5e6)
  expect(p.behind).toBe(true)
  expect(p.share).toBeCloseTo(0.95)
  expect(p.target(20, 5e6)).toBe(15e6)
})

test('a page that slept goes on from where it was', () => {
  const p = new Pace()
  p.begin(0, 0)
  expect(p.target(60_000, 0)).toBe(50e6)
})

test('a slice is as long as it may be for the page to be answered', () => {
  const p = new Pace()
  for (let i = 0; i < 20; i++) p.took(100)
  expect(p.slice).toBe(1000)
  for (let i = 0; i < 40; i++) p.took(0.001)
  expect(p.slice).toBe(8e6)
})
