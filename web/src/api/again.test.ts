import { describe, expect, it } from 'vitest'

import { again } from './again'

class Refusal extends Error {
  constructor(readonly status: number) {
    super(String(status))
  }

  get isGone() {
    return this.status === 404
  }
}

describe('again', () => {
  const still = new AbortController().signal
  const cases: { name: string; answers: (number | Error)[]; asked: number; told: string }[] = [
    { name: 'what is answered is not asked again', answers: [201], asked: 1, told: '201' },
    { name: 'another process goes on', answers: [0, 502, 503, 201], asked: 4, told: '201' },
    { name: 'a refusal is told', answers: [422, 201], asked: 1, told: 'error 422' },
    { name: 'a refusal after an outage, too', answers: [0, 409], asked: 2, told: 'error 409' },
    { name: 'an outage is told rather than that nothing waits any more', answers: [503, 404], asked: 2, told: 'error 503' },
    { name: 'nothing waits', answers: [404], asked: 1, told: 'error 404' },
    { name: 'not for ever', answers: [0, 0, 503, 0, 0], asked: 4, told: 'error 0' },
    { name: 'another fault', answers: [new Error('x'), 201], asked: 1, told: 'error x' },
  ]
  for (const c of cases) {
    it(c.name, async () => {
      let asked = 0
      const ask = () => {
        const next = c.answers[asked++] ?? 500
        if (next instanceof Error) return Promise.reject(next)
        return next < 300 && next > 0 ? Promise.resolve(String(next)) : Promise.reject(new Refusal(next))
      }
      const told = await again(ask, still, [0, 0, 0]).catch((e: unknown) => `error ${(e as Error).message}`)
      expect([asked, told]).toEqual([c.asked, c.told])
    })
  }

  it('not once somebody has gone', async () => {
    const left = new AbortController()
    left.abort()
    await expect(again(() => Promise.reject(new Refusal(0)), left.signal, [0])).rejects.toThrow('0')
  })
})
