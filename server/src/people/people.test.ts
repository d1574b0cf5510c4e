import type { AddressInfo } from 'node:net';
import { verify } from '@node-rs/argon2';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import {
  deedsSchema,
  hereSchema,
  historySchema,
  invitationsSchema,
  madeInvitationSchema,
  peopleSchema,
  type Role,
} from '@plinket/contract';
import request from 'supertest';
import { createApp, serverOf } from '../index.ts';
import { NOWHERE, problem, silent, TestServer } from '../testing/fixture.ts';
import { Accounts } from './index.ts';

const PASSWORD = 'one that is long enough';

/** Somebody with a browser of their own. */
class Person {
  readonly name: string;
  readonly agent = request.agent(server.app);
  constructor(name: string) {
    this.name = name;
  }
  private send(method: 'post' | 'patch' | 'delete', path: string) {
    const sent = this.agent[method](`/api${path}`);
    // as a browser does on every write
    return sent.set('Host', 'localhost').set('Origin', 'http://localhost');
  }
  get = (path: string) => this.agent.get(`/api${path}`).set('Host', 'localhost');
  post = (path: string, body: object = {}) => this.send('post', path).send(body);
  patch = (path: string, body: object) => this.send('patch', path).send(body);
  remove = (path: string) => this.send('delete', path);
  join = (invitation: string, password = PASSWORD) => this.post('/join', { invitation, name: this.name, password });
  signIn = (password = PASSWORD) => this.post('/session', { name: this.name, password });
  here = async () => hereSchema.parse((await this.get('/session').expect(200)).body);
}

let server: TestServer, ane: Person;
/** A word that lets somebody in. */
const invited = async (role: Role): Promise<string> =>
  madeInvitationSchema.parse((await ane.post('/invitations', { role }).expect(201)).body).invitation;
/** Somebody new, with a role, signed in. */
async function somebody(name: string, role: Role): Promise<Person> {
  const person = new Person(name);
  await person.join(await invited(role)).expect(201);
  return person;
}
const idOf = async (name: string): Promise<string> => {
  const { items } = peopleSchema.parse((await ane.get('/accounts').expect(200)).body);
  return items.find((a) => a.name === name)!.id;
};
const session = (response: request.Response): string => /plinket=[^;]+/.exec(response.headers['set-cookie']![0]!)![0];

beforeAll(async () => {
  server = await TestServer.start({ people: { secret: 'signs sessions', token: 'what programs say', stillInMs: 50 } });
  const first = await new Accounts(server.db.manager).inviteFirst();
  ane = new Person('Ane');
  await ane.join(first!.invitation).expect(201);
  await server.bring().set('Authorization', 'Bearer what programs say').expect(201);
}, 120_000);
afterAll(() => server?.stop());

describe('passwords', () => {
  it('are argon2id as the reference implementation has it', async () => {
    // test.c of the reference implementation (phc-winner-argon2): version 0x13, t 2, m 2^16, p 1; from memory
    const known = '$argon2id$v=19$m=65536,t=2,p=1$c29tZXNhbHQ$CTFhFdXPJO1aFaMaO6Mm5c8y7cJHAph8ArZWb2GRPPc';
    expect(await verify(known, 'password')).toBe(true);
    expect(await verify(known, 'passwore')).toBe(false);
    const [row] = await server.db.query<{ password: string }[]>("SELECT password FROM account WHERE name = 'Ane'");
    // OWASP's password storage cheat sheet: at least 19 MiB with two passes; from memory
    const [, m, t] = /^\$argon2id\$v=19\$m=(\d+),t=(\d+),p=\d+\$/.exec(row!.password)!.map(Number);
    expect(m! >= 19 * 1024 && t! >= 2).toBe(true);
  });
  it('are wanted long, and are never told', async () => {
    const told = problem(await new Person('Bo').join(await invited('light'), 'short'), 422);
    expect(told.errors).toEqual([{ field: 'password', reason: 'at least 12 characters' }]);
    for (const path of ['/accounts', '/session', '/deeds']) expect((await ane.get(path).expect(200)).text).not.toContain('argon2');
  });
});

describe('signing in', () => {
  it('says who one is, and who is nobody', async () => {
    expect(await ane.here()).toEqual({ guarded: true, account: { id: await idOf('Ane'), name: 'Ane', role: 'lead' } });
    expect(await new Person('x').here()).toEqual({ guarded: true });
  });
  it('lets nobody in by a wrong name or password, and says the same of both', async () => {
    const [name, password] = [await new Person('Nobody').signIn(), await new Person('Ane').signIn('not the right one')];
    expect(problem(name, 403)).toEqual(problem(password, 403));
    problem(await new Person('Nobody').get('/setups'), 401);
    const other = new Person('  aNE ');
    await other.signIn().expect(200);
    expect((await other.here()).account?.name).toBe('Ane');
  });
  it('gives a session an id of its own each time, so that one that was planted is worth nothing', async () => {
    const cleo = await somebody('Cleo', 'light');
    const before = session(await cleo.signIn().expect(200)),
      after = session(await cleo.signIn().expect(200));
    expect(after).not.toBe(before);
    problem(await request(server.app).get('/api/setups').set('Cookie', before), 401);
    await request(server.app).get('/api/setups').set('Cookie', after).expect(200);
    // a forged one is none
    problem(
      await request(server.app)
        .get('/api/setups')
        .set('Cookie', `${after.slice(0, -3)}abc`),
      401,
    );
  });
  it('keeps the cookie from scripts and from other sites, and from lines that are not ciphered where TLS is spoken', async () => {
    const plain = await ane.signIn().expect(200);
    expect(plain.headers['set-cookie']![0]).toMatch(/HttpOnly; SameSite=Strict$/);
    const behind = await ane.signIn().set('X-Forwarded-Proto', 'https').set('Origin', 'https://localhost').expect(200);
    expect(behind.headers['set-cookie']![0]).toMatch(/Secure/);
    await ane.signIn().expect(200);
  });
  it('renews an old id when a page opens: a stolen one ends', async () => {
    const dag = await somebody('Dag', 'look');
    const stolen = session(await dag.signIn().expect(200));
    await server.db.query("UPDATE session SET sess = jsonb_set(sess::jsonb, '{named}', '0') WHERE sess ->> 'account' = $1", [
      (await dag.here()).account!.id,
    ]);
    expect((await dag.here()).account?.name).toBe('Dag');
    await dag.get('/setups').expect(200);
    problem(await request(server.app).get('/api/setups').set('Cookie', stolen), 401);
  });
  it('ends when one signs out', async () => {
    const eli = await somebody('Eli', 'look');
    const cookie = session(await eli.signIn().expect(200));
    await eli.remove('/session').expect(204);
    problem(await eli.get('/setups'), 401);
    problem(await request(server.app).get('/api/setups').set('Cookie', cookie), 401);
  });
  it('ends what one listens to, too', async () => {
    const pia = await somebody('Pia', 'look'),
      { id } = (await ane.post('/setups', { document: server.setup }).expect(201)).body as { id: string };
    const http = serverOf(server.app);
    await new Promise<void>((resolve) => http.listen(0, '127.0.0.1', resolve));
    const cookie = session(await pia.signIn().expect(200));
    const stream = await fetch(`http://127.0.0.1:${(http.address() as AddressInfo).port}/api/setups/${id}/events`, { headers: { cookie } });
    expect(stream.status).toBe(200);
    await pia.remove('/session').expect(204);
    // it would never end by itself
    expect(await stream.text()).toContain('retry');
    http.close();
  });
  it('ends everywhere else when the password is changed', async () => {
    const fin = await somebody('Fin', 'look'),
      elsewhere = new Person('Fin');
    await elsewhere.signIn().expect(200);
    const next = 'another that is long';
    expect(problem(await fin.post('/session/password', { password: 'wrong', next }), 422).errors![0]!.field).toBe('password');
    await fin.post('/session/password', { password: PASSWORD, next }).expect(204);
    await fin.get('/setups').expect(200);
    problem(await elsewhere.get('/setups'), 401);
    problem(await elsewhere.signIn(), 403);
    await elsewhere.signIn(next).expect(200);
  });
  it('is not tried for ever', async () => {
    // another server: the others of this test sign in, too
    const app = createApp({
      db: server.db,
      blobs: server.blobs,
      readers: server.readers,
      log: silent,
      people: { secret: 'signs sessions' },
    });
    const tried = () => request(app).post('/api/session').send({ name: 'Ane', password: 'guessed' });
    let answer = await tried();
    for (let i = 0; i < 30 && answer.status === 403; i++) answer = await tried();
    problem(answer, 429);
  }, 60_000);
});

describe('a write', () => {
  it('that does not say which page sent it is refused, with all its cookies', async () => {
    const body = { role: 'look' };
    const foreign = (header: string, value: string) =>
      ane.agent.post('/api/invitations').set('Host', 'localhost').set(header, value).send(body);
    problem(await ane.agent.post('/api/invitations').set('Host', 'localhost').send(body), 403);
    problem(await foreign('Origin', 'http://evil.example'), 403);
    problem(await foreign('Sec-Fetch-Site', 'cross-site'), 403);
    problem(await foreign('Sec-Fetch-Site', 'same-site'), 403);
    await foreign('Sec-Fetch-Site', 'same-origin').expect(201);
  });
});

describe('roles', () => {
  it('say who may look, light and lead', async () => {
    const [look, light] = [await somebody('Gro', 'look'), await somebody('Hal', 'light')];
    const { id } = (await light.post('/setups', { document: server.setup }).expect(201)).body as { id: string };
    await look.get(`/setups/${id}`).expect(200);
    for (const refused of [look.post('/setups', { document: server.setup }), look.remove(`/setups/${id}`), look.patch(`/setups/${id}`, {})])
      expect(problem(await refused, 403).title).toBe('You may look, not change.');
    for (const person of [look, light])
      for (const refused of [person.get('/accounts'), person.get('/deeds'), person.post('/invitations', { role: 'lead' })])
        expect(problem(await refused, 403).title).toBe('Only who leads may do that.');
    // asking what a change would touch changes nothing, nor does saying what one looks at; both are no deeds
    await look.post(`/setups/${id}/hand`, { client: NOWHERE, lights: [] }).expect(204);
    expect(deedsSchema.parse((await ane.get('/deeds?search=Gro').expect(200)).body).items.map((d) => d.words)).toEqual(['POST /api/join']);
    problem(await look.post(`/sequences/${NOWHERE}/touched`, { patch: {} }), 404);
    await ane.patch(`/accounts/${await idOf('Gro')}`, { role: 'light' }).expect(200);
    await look.remove(`/setups/${id}`).expect(204);
  });
  it('are needed on every route but those that let one in', async () => {
    const paths = Object.entries((await ane.get('/openapi.json').expect(200)).body.paths as { [path: string]: object });
    const open = new Set(['/api/health get', '/api/session get', '/api/session post', '/api/session delete', '/api/join post']);
    for (const [path, methods] of paths)
      for (const method of Object.keys(methods)) {
        if (path.startsWith('/api/node/') || open.has(`${path} ${method}`)) continue;
        const asked = request(server.app)[method as 'get'](path.replace(/\{[^}]+\}/g, NOWHERE));
        expect([path, method, (await asked).status]).toEqual([path, method, 401]);
      }
    expect(paths.length).toBeGreaterThan(40);
  });
  it('keep somebody who leads', async () => {
    const id = await idOf('Ane');
    expect(problem(await ane.patch(`/accounts/${id}`, { role: 'look' }), 409).title).toBe('Somebody must lead: let another lead first.');
    problem(await ane.remove(`/accounts/${id}`), 409);
    const ida = await somebody('Ida', 'lead');
    // each takes the other's lead at the same moment
    const both = await Promise.all([
      ane.patch(`/accounts/${await idOf('Ida')}`, { role: 'look' }),
      ida.patch(`/accounts/${id}`, { role: 'look' }),
    ]);
    const { items } = peopleSchema.parse((await (both[0].status === 200 ? ane : ida).get('/accounts').expect(200)).body);
    expect(items.filter((a) => a.role === 'lead')).toHaveLength(1);
    if (both[1].status === 200) await ida.patch(`/accounts/${id}`, { role: 'lead' }).expect(200);
  });
});

describe('an account', () => {
  it('that is taken away is signed out, and its name is free', async () => {
    const jon = await somebody('Jon', 'light');
    await ane.remove(`/accounts/${await idOf('Jon')}`).expect(204);
    problem(await jon.get('/setups'), 401);
    problem(await jon.signIn(), 403);
    await somebody('jon', 'look');
  });
  it('needs a name that nobody has', async () => {
    const told = problem(await new Person('ANE').join(await invited('look')), 422);
    expect(told.errors).toEqual([{ field: 'name', reason: 'is another’s already' }]);
    problem(await new Person('a\u200bb').join(await invited('look')), 422);
  });
});

describe('an invitation', () => {
  it('lets one in, once, in time, unless it was taken back', async () => {
    const once = await invited('look');
    await new Person('Kai').join(once).expect(201);
    problem(await new Person('Liv').join(once), 403);
    const late = await invited('look');
    await server.db.query("UPDATE invitation SET expires_at = now() - interval '1 second'");
    problem(await new Person('Liv').join(late), 403);
    const back = await invited('look');
    const { items } = invitationsSchema.parse((await ane.get('/invitations').expect(200)).body);
    expect(items).toEqual([expect.objectContaining({ role: 'look', by: 'Ane' })]);
    await ane.remove(`/invitations/${items[0]!.id}`).expect(204);
    problem(await new Person('Liv').join(back), 403);
    problem(await new Person('Liv').join('guessed'), 403);
  });
  it('is not used up by a name that is taken, and two cannot use one at once', async () => {
    const word = await invited('look');
    problem(await new Person('Ane').join(word), 422);
    const both = await Promise.all([new Person('Moa').join(word), new Person('Nils').join(word)]);
    expect(both.map((r) => r.status).sort()).toEqual([201, 403]);
  });
  it('for the first who leads is made only while nobody does', async () => {
    expect(await new Accounts(server.db.manager).inviteFirst()).toBeUndefined();
  });
});

describe('who did what', () => {
  it('stands in the history of a document, and in the book of deeds', async () => {
    const ola = await somebody('Ola', 'light');
    const { id } = (await ola.post('/setups', { document: { ...server.setup, name: 'Ola’s' } }).expect(201)).body as { id: string };
    await ola
      .patch(`/setups/${id}`, { name: 'Renamed' })
      .set('If-Match', '"1"')
      .set('Content-Type', 'application/merge-patch+json')
      .expect(200);
    await ola.remove(`/setups/${NOWHERE}`).expect(404);
    const { items } = historySchema.parse((await ola.get(`/setups/${id}/history`).expect(200)).body);
    expect(items[0]).toMatchObject({ by: 'Ola', revision: 2 });
    const deeds = deedsSchema.parse((await ane.get('/deeds?search=Ola').expect(200)).body).items;
    expect(deeds.map((d) => [d.words, d.status])).toEqual([
      [`DELETE /api/setups/${NOWHERE}`, 404],
      [items[0]!.words, 200],
      ['POST /api/setups', 201],
      ['POST /api/join', 201],
    ]);
    expect(deeds[1]!.document).toEqual({ id, kind: 'setup', name: 'Renamed' });
    // page by page it is the same
    const pages: string[] = [];
    for (let next: string | undefined = ''; next !== undefined;) {
      const page: ReturnType<typeof deedsSchema.parse> = deedsSchema.parse(
        (await ane.get(`/deeds?search=Ola&limit=1${next && `&cursor=${next}`}`).expect(200)).body,
      );
      pages.push(...page.items.map((d) => d.id));
      next = page.next;
    }
    expect(pages).toEqual(deeds.map((d) => d.id));
  });
});
