import { connect } from 'node:net';
import type { AddressInfo } from 'node:net';
import { gzipSync, brotliCompressSync } from 'node:zlib';
import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { openApiDocument, problemSchema } from '@plinket/contract';
import request from 'supertest';
import { createApp, serverOf, type AppOptions } from '../index.ts';
import { problem, silent, TestServer } from '../testing/fixture.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
  await server.bring();
}, 120_000);
afterAll(() => server?.stop());

describe('the door', () => {
  it('answers under loopback names only', async () => {
    problem(await server.api().get('/api/health').set('Host', 'evil.example'), 403);
    await server.api().get('/api/health').set('Host', 'localhost:4870').expect(200);
  });
  it('refuses writes from pages of another origin', async () => {
    const { id } = await server.created();
    problem(await server.patch(id, 1, { name: 'x' }).set('Origin', 'http://evil.example'), 403);
    const same = server.patch(id, 1, { name: 'x' }).set('Host', '127.0.0.1:9').set('Origin', 'http://127.0.0.1:9');
    await same.expect(200);
  });
  it('isolates the page, so that threads may share memory', async () => {
    const { headers } = await server.api().get('/api/health');
    expect(headers['cross-origin-opener-policy']).toBe('same-origin');
    expect(headers['cross-origin-embedder-policy']).toBe('require-corp');
    expect(headers['content-security-policy']).toContain("script-src 'self' 'wasm-unsafe-eval'");
  });
  it('describes itself: every route of the contract stands in the OpenAPI document', async () => {
    const { body } = await server.api().get('/api/openapi.json').expect(200);
    expect(body).toEqual(JSON.parse(JSON.stringify(openApiDocument('0.1.0'))));
    for (const path of ['/api/setups/{id}', '/api/assets', '/api/setups/{id}/proofs', '/api/blobs/{sha256}'])
      expect(Object.keys(body.paths)).toContain(path);
    expect(body.paths['/api/setups/{id}'].patch.requestBody.content).toHaveProperty('application/merge-patch+json');
  });
});

describe('bodies', () => {
  const bomb = Buffer.alloc(8_000_000, ' ');
  it.each([
    ['gzip', gzipSync(bomb)],
    ['br', brotliCompressSync(bomb)],
    ['deflate', Buffer.from('x')],
  ])('are refused when %s compresses them', async (encoding, bytes) => {
    for (const [path, type] of [
      ['/api/setups', 'application/json'],
      ['/api/luts?name=a.cube', 'text/plain'],
    ] as const)
      problem(await server.api().post(path).set('Content-Type', type).set('Content-Encoding', encoding).send(bytes), 415);
  });
  it('of files are refused by the length they announce, and by the length they have', async () => {
    const { port, close } = await listening();
    const head = 'POST /api/assets?name=a.glb HTTP/1.1\r\nHost: localhost\r\nContent-Type: model/gltf-binary\r\n';
    expect(await said(port, `${head}Content-Length: 999999999999\r\n\r\n`)).toContain('413');
    await close();
  });
});

describe('answers that are no page', () => {
  it('are problems on every route and for every method', async () => {
    const web = mkdtempSync(join(tmpdir(), 'plinket-web-'));
    mkdirSync(join(web, 'assets'));
    writeFileSync(join(web, 'index.html'), '<html>Plinket</html>');
    writeFileSync(join(web, 'assets/here.js'), '1');
    const app = createApp(options({ web }));
    const get = (path: string) => request(app).get(path);
    expect((await get('/setup/anything').set('Accept', 'text/html')).text).toContain('Plinket');
    expect((await get('/')).text).toContain('Plinket');
    expect((await get('/assets/here.js')).status).toBe(200);
    for (const path of ['/assets/gone.js', '/favicon.ico', '/api', '/api/nothing', '/api/setups/x/y/z']) problem(await get(path), 404);
    for (const path of ['/%E0%A4%A', '/assets/%E0%A4%A', '/api/setups/%E0%A4%A']) problem(await get(path), 400);
    problem(await request(app).post('/'), 404);
    problem(await request(app).put('/api/setups'), 404);
    problem(await request(app).delete('/assets/here.js'), 404);
    problem(await get('/setup/x').set('Accept', 'image/png'), 404);
  });
});

describe('a server that listens beyond loopback', () => {
  const token = 'a long enough password',
    people = { secret: 'signs sessions', token };
  it('lets programs in by their password only', async () => {
    const app = createApp(options({ people }));
    const asked = (header?: string) => {
      const get = request(app).get('/api/setups');
      return header === undefined ? get : get.set('Authorization', header);
    };
    for (const header of [undefined, 'Bearer wrong', 'nonsense', `Basic ${Buffer.from(`any:${token}`).toString('base64')}`, 'Bearer '])
      problem(await asked(header), 401);
    await asked(`Bearer ${token}`).expect(200);
    // how it is may be asked by whoever watches over it
    await request(app).get('/api/health').expect(200);
    // a server that gave programs none has none that fits
    problem(
      await request(createApp(options({ people: { secret: 'x' } })))
        .get('/api/setups')
        .set('Authorization', 'Bearer undefined'),
      401,
    );
  });
  it('answers under its address, and under names only when they were given', async () => {
    const app = createApp(options({ people, hosts: ['light.example'] }));
    const as = (host: string) => request(app).get('/api/setups').set('Host', host).set('Authorization', `Bearer ${token}`);
    await as('192.168.1.20:4870').expect(200);
    await as('[fe80::1]:4870').expect(200);
    await as('light.example:4870').expect(200);
    problem(await as('evil.example:4870'), 403);
    // where nobody signs in an address is as foreign as a name
    problem(await server.api().get('/api/setups').set('Host', '192.168.1.20:4870'), 403);
  });
});

describe('sockets', () => {
  it('that say what is no HTTP get a problem', async () => {
    const { port, close } = await listening();
    const answer = await said(port, 'NONSENSE\r\n\r\n');
    expect(answer).toMatch(/^HTTP\/1\.1 400 [^]*application\/problem\+json/);
    expect(problemSchema.parse(JSON.parse(answer.slice(answer.indexOf('\r\n\r\n')))).status).toBe(400);
    expect(await said(port, `GET / HTTP/1.1\r\nX: ${'x'.repeat(40_000)}\r\n\r\n`)).toContain('431');
    await close();
  });
  it('that never finish their request are closed', async () => {
    const { port, close } = await listening({ headersMs: 200, requestMs: 400, checkMs: 50 });
    expect(await said(port, 'GET / HTTP/1.1\r\nHost: lo')).toContain('408');
    const head = 'POST /api/luts?name=a HTTP/1.1\r\nHost: localhost\r\nContent-Type: text/plain\r\nContent-Length: 1000\r\n\r\n';
    expect(await said(port, `${head}LUT`)).toContain('408');
    await close();
  });
});

const options = (more: Partial<AppOptions>): AppOptions => ({
  db: server.db,
  blobs: server.blobs,
  readers: server.readers,
  log: silent,
  ...more,
});

async function listening(limits: Parameters<typeof serverOf>[1] = {}) {
  const http = serverOf(server.app, limits);
  await new Promise<void>((resolve) => http.listen(0, '127.0.0.1', resolve));
  return { port: (http.address() as AddressInfo).port, close: () => new Promise((resolve) => http.close(resolve)) };
}

/** What a server answers to bare text until it closes the connection. */
const said = (port: number, text: string): Promise<string> =>
  new Promise((resolve, reject) => {
    let answer = '';
    const socket = connect(port, '127.0.0.1', () => socket.write(text));
    socket.setEncoding('utf8').on('data', (d: string) => (answer += d));
    socket.on('close', () => resolve(answer)).on('error', reject);
  });
