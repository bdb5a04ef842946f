import { readFileSync } from 'node:fs';
import { StandInAccess, storesChanger } from '../../demo/stand-in-access.ts';
import { installation } from './installation.ts';

/* The stores service of an installation, spoken to past the product. */

async function ask(path: string, method = 'GET', body?: object): Promise<Response> {
  const { port, storesPassword } = StandInAccess.parse(
    JSON.parse(readFileSync(installation().standIns, 'utf8')),
  );
  const authorization = `Basic ${Buffer.from(`${storesChanger}:${storesPassword}`).toString('base64')}`;
  return fetch(`http://127.0.0.1:${port}/stores/${path}`, {
    method,
    headers: { authorization, 'content-type': 'application/json' },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });
}

/** How many lines all requisitions have, whatever other journeys have added. */
export const linesThere = async (): Promise<string> => (await ask('RequisitionLines/$count')).text();

async function idsOf(set: string, filter: string): Promise<number[]> {
  const answer = await ask(`${set}?$filter=${encodeURIComponent(filter)}`);
  return ((await answer.json()) as { value: { Id: number }[] }).value.map(({ Id }) => Id);
}

/** Adds requisitions of a vessel, with these notes. */
export async function addRequisitions(vessel: string, notes: readonly string[]): Promise<void> {
  for (const Note of notes)
    await ask('Requisitions', 'POST', {
      DepotId: 1,
      Vessel: vessel,
      State: 'open',
      Note,
      RaisedOn: '2026-11-02',
    });
}

/** Changes the requisition that has a note. */
export async function changeRequisition(note: string, values: object): Promise<void> {
  for (const id of await idsOf('Requisitions', `Note eq '${note}'`))
    await ask(`Requisitions(${id})`, 'PATCH', values);
}

/** Removes the requisitions of which a member has a value, and their lines. */
export async function removeRequisitions(member: 'Note' | 'Vessel', value: string): Promise<void> {
  for (const id of await idsOf('Requisitions', `${member} eq '${value}'`)) {
    for (const line of await idsOf('RequisitionLines', `RequisitionId eq ${id}`))
      await ask(`RequisitionLines(${line})`, 'DELETE');
    await ask(`Requisitions(${id})`, 'DELETE');
  }
}
