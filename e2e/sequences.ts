// Sequences as tests use them: the demo's, and copies of their own.
import type { Page } from '@playwright/test';

export interface Named {
  id: string;
  name: string;
}
export interface Sequence {
  id: string;
  document: { setup: string; shots: { items: Record<string, { code: string; state: string; rank: string; first: number; last: number }> } };
}
type Light = { role: string; stops: number; place?: { azimuth: number; elevation: number } };
export interface Setup {
  document: { lights: { items: Record<string, Light> }; camera: { ev: number } };
}
export const asked = async <T>(page: Page, path: string): Promise<T> => (await (await page.request.get(`/api/${path}`)).json()) as T;
export const sequenceNamed = async (page: Page, name: string): Promise<Sequence> => {
  const { items } = await asked<{ items: Named[] }>(page, `sequences?search=${encodeURIComponent(name)}`);
  return asked<Sequence>(page, `sequences/${items.find((s) => s.name === name)!.id}`);
};
/** A copy of the demo's sequence with its first shots, for tests that change it. */
export async function ownSequence(
  page: Page,
  name: string,
  shots: number,
  change: (light: object) => object = (l) => l,
): Promise<Sequence> {
  const { document } = await sequenceNamed(page, 'Night watch');
  const light = await asked<{ document: object }>(page, `setups/${document.setup}`);
  const setup = (await (
    await page.request.post('/api/setups', { data: { document: { ...change(light.document), name: `${name}, its light` } } })
  ).json()) as Named;
  const made = await page.request.post('/api/sequences', {
    data: { document: { ...document, name, setup: setup.id, shots: { items: {} } } },
  });
  const { id } = (await made.json()) as Named;
  const said = Array.from({ length: shots }, (_, i) => ({
    code: `S_${i + 1}0`,
    first: 1001,
    last: 1050,
    state: 'to light',
    brief: '',
    notes: '',
  }));
  return (await (await page.request.post(`/api/sequences/${id}/shots`, { data: { shots: said } })).json()) as Sequence;
}
export const shotId = ({ document }: Sequence, code: string) => Object.entries(document.shots.items).find(([, s]) => s.code === code)![0];
