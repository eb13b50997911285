/** The service under attack: wrong ways, foreign pages, hostile files, clients that leave. */
import { spawn } from 'node:child_process'
import { request as ask } from 'node:http'
import { readdir, readFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { expect, test } from './test'
import { BOMBS } from '../hostile/bombs'

const film = path.resolve(import.meta.dirname, '../vectors/rle32.mov')
const uploads = async (): Promise<string[]> => (await readdir(tmpdir())).filter(name => name.startsWith('pour-upload-'))

test('under /api everything is JSON: what is not there, and what is asked in a wrong way', async ({ request }) => {
  for (const [method, address, status] of [
    ['get', '/api/nothing', 404],
    ['get', '/api', 404],
    ['get', '/api/stations/asks', 405],
    ['post', '/api/formats', 405],
    ['delete', '/api/stations', 405],
    ['put', '/api/demo', 405]
  ] as const) {
    const answer = await request[method](address)
    expect([address, answer.status()]).toEqual([address, status])
    expect(answer.headers()['content-type']).toContain('application/json')
    expect(((await answer.json()) as { message: string }).message).toContain(address)
    if (status === 405) expect(answer.headers().allow).toBeTruthy()
  }
})

test('a page from elsewhere and a name from elsewhere are refused', async ({ request, baseURL }) => {
  expect((await request.get('/api/formats', { headers: { Origin: 'http://evil.example' } })).status()).toBe(403)
  expect((await request.get('/api/formats', { headers: { Origin: 'null' } })).status()).toBe(403)
  const status = await new Promise<number | undefined>(resolve => {
    const { hostname, port } = new URL(baseURL!)
    ask({ hostname, port, path: '/api/formats', headers: { Host: 'evil.example' } }, answer => {
      answer.resume()
      resolve(answer.statusCode)
    }).end()
  })
  expect(status).toBe(403)
})

test('a hostile file is refused in words, leaves nothing behind, and keeps nobody waiting', async ({ request }) => {
  test.setTimeout(120_000)
  // the process that takes it is started with the first
  expect((await request.post('/api/stations/plain-player', { data: await readFile(film) })).status()).toBe(200)
  let longest = 0
  for (const [name, make] of Object.entries(BOMBS)) {
    const bomb = request.post('/api/stations/plain-player', { data: Buffer.from(make()) })
    let over = false
    void bomb.finally(() => (over = true))
    do {
      const asked = performance.now()
      expect((await request.get('/api/stations')).status()).toBe(200)
      longest = Math.max(longest, performance.now() - asked)
    } while (!over)
    const answer = await bomb
    expect([name, [413, 422].includes(answer.status())]).toEqual([name, true])
    expect(((await answer.json()) as { message: string }).message).toMatch(/^\S.{10,}$/)
  }
  test.info().annotations.push({ type: 'longest other answer', description: `${Math.round(longest)} ms` })
  expect(await uploads()).toEqual([])
})

test('a client that leaves takes its upload with it, and others are served', async ({ request, baseURL }) => {
  const { hostname, port } = new URL(baseURL!)
  for (let n = 0; n < 6; n++) {
    const leaving = ask({
      hostname,
      port,
      path: '/api/stations/asks',
      method: 'POST',
      headers: { 'Content-Length': 1e6 }
    })
    leaving.on('error', () => undefined)
    leaving.write(Buffer.alloc(2000))
    await new Promise(resolve => setTimeout(resolve, 60))
    leaving.destroy()
  }
  expect((await request.post('/api/stations/asks', { data: await readFile(film) })).status()).toBe(200)
  await expect.poll(uploads).toEqual([])
})

test('more files than can be taken are refused at the door, and those in line are served', async ({ request }) => {
  const bytes = await readFile(film)
  const answers = await Promise.all(
    Array.from({ length: 24 }, () => request.post('/api/stations/engine-straight', { data: bytes }))
  )
  const statuses = answers.map(answer => answer.status())
  expect(statuses.every(status => status === 200 || status === 503)).toBe(true)
  expect(statuses.filter(status => status === 200).length).toBeGreaterThanOrEqual(10)
  await expect.poll(uploads).toEqual([])
})

test('uploads that come a byte at a time hold no place at the stations, and are ended', async ({
  request,
  baseURL
}) => {
  test.setTimeout(60_000)
  const { hostname, port } = new URL(baseURL!)
  const slow = Array.from({ length: 4 }, () => {
    const coming = ask({
      ...{ hostname, port, path: '/api/stations/asks', method: 'POST' },
      headers: { 'Content-Length': 1e6 }
    })
    const status = new Promise<number | undefined>(resolve => {
      coming.on('response', answer => resolve(answer.statusCode))
      coming.on('error', () => resolve(undefined))
    })
    const drip = setInterval(() => coming.write(Buffer.alloc(1)), 400)
    void status.then(() => clearInterval(drip)).then(() => coming.destroy())
    return status
  })
  await new Promise(resolve => setTimeout(resolve, 1000))
  expect((await request.post('/api/stations/asks', { data: await readFile(film) })).status()).toBe(200)
  expect(await Promise.all(slow)).toEqual([408, 408, 408, 408])
  await expect.poll(uploads).toEqual([])
})

test('a server for others hands out nothing without its token, which leaves the address at once', async () => {
  const PORT = '4317'
  const env = { ...process.env, PORT, HOST: '0.0.0.0', POUR_TOKEN: 'fern-glass', NUXT_EMPTY: 'true' }
  const server = spawn(process.execPath, ['.output/server/index.mjs'], { env, stdio: 'ignore' })
  const at = (path: string, init?: RequestInit): Promise<Response> =>
    fetch(`http://localhost:${PORT}${path}`, { redirect: 'manual', ...init })
  try {
    await expect
      .poll(() =>
        at('/').then(
          ({ status }) => status,
          () => 0
        )
      )
      .toBe(401)
    for (const path of ['/favicon.svg', '/api/formats', '/board'])
      expect([path, (await at(path)).status]).toEqual([path, 401])
    const arrives = await at('/?token=fern-glass&place=bench')
    expect([arrives.status, arrives.headers.get('location')]).toEqual([302, '/?place=bench'])
    const cookie = arrives.headers.get('set-cookie')!.split(';')[0]!
    for (const path of ['/', '/favicon.svg', '/api/formats'])
      expect([path, (await at(path, { headers: { cookie } })).status]).toEqual([path, 200])
    const guess = (): Promise<number> => at('/?token=wrong').then(({ status }) => status)
    const began = performance.now()
    for (let n = 0; n < 6; n++) expect(await guess()).toBe(401)
    // three are free, and then each waits longer: 250, 500 and 1000 ms
    expect(performance.now() - began).toBeGreaterThan(1700)
    expect((await at('/api/formats', { headers: { authorization: 'Bearer fern-glass' } })).status).toBe(200)
  } finally {
    server.kill()
  }
})
