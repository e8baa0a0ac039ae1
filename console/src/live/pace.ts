// Pace leads simulated time after real time. Where the simulation is slower, what it lacks is not made up for: it runs
// slower, and says so. Times are in ns; real ones in ms, as the page's clock gives them.
export class Pace {
  speed = 1
  share = 1 // of the speed that is asked for, reached lately
  slice = 1e6 // how much time goes by between two messages
  behind = false
  private since = 0
  private from = 0
  private asked = 0

  // begin counts from here.
  begin(real: number, now: number) {
    this.since = real
    this.from = now
    this.behind = false
  }

  // target is how far time should have come.
  target(real: number, now: number) {
    const passed = Math.min(real - this.since, 50)
    this.since = real
    this.from = now
    this.asked = passed * 1e6 * this.speed
    return now + this.asked
  }

  // reached takes how far it came.
  reached(all: boolean, now: number) {
    this.behind = !all
    const part = this.asked > 0 ? Math.min(1, (now - this.from) / this.asked) : 1
    this.share = 0.9 * this.share + 0.1 * part
  }

  // took adapts the slice, so that one takes about two milliseconds of real time.
  took(real: number) {
    const factor = Math.min(2, Math.max(0.25, 2 / Math.max(real, 0.01)))
    this.slice = Math.min(8e6, Math.max(1000, this.slice * factor))
  }
}
