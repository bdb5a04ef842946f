import { get } from 'node:http';
import { crc32, deflateRawSync } from 'node:zlib';
import type { APIRequestContext } from '@playwright/test';
import { expect, pageOf, test } from './support/people.ts';
import { home, whileOthersRead } from './support/stops.ts';

/* What one person does to take all time, memory or connections ends by itself, and the product goes on for the others. */

/** What is found in a file that somebody uploads. */
async function lookedAt(request: APIRequestContext, content: Buffer) {
  const sent = await request.post(`${home()}/workroom/upload/receive`, {
    data: content,
    headers: { Origin: home(), 'Content-Type': 'application/octet-stream' },
  });
  const answer = await request.post(`${home()}/workroom/upload/look`, {
    data: { file: (await sent.json()).file },
    headers: { Origin: home() },
    // It took a hundred seconds once; a busy machine may need half of that.
    timeout: 60_000,
  });
  return answer.json();
}

/** A file packed as ZIP has it (APPNOTE 6.3), of parts that shrink to almost nothing. */
function zipped(parts: Readonly<Record<string, Buffer>>): Buffer {
  const [files, directory]: [Buffer[], Buffer[]] = [[], []];
  let at = 0;
  for (const [name, content] of Object.entries(parts)) {
    const packed = deflateRawSync(content);
    const common = Buffer.alloc(26);
    common.writeUInt16LE(20, 0);
    common.writeUInt16LE(8, 4);
    common.writeUInt32LE(crc32(content), 10);
    common.writeUInt32LE(packed.length, 14);
    common.writeUInt32LE(content.length, 18);
    common.writeUInt16LE(name.length, 22);
    const file = Buffer.concat([Buffer.from('PK\x03\x04'), common, Buffer.from(name), packed]);
    const more = Buffer.alloc(14);
    more.writeUInt32LE(at, 10);
    directory.push(Buffer.concat([Buffer.from('PK\x01\x02\x14\x00'), common, more, Buffer.from(name)]));
    files.push(file);
    at += file.length;
  }
  const end = Buffer.alloc(18);
  end.writeUInt16LE(files.length, 4);
  end.writeUInt16LE(files.length, 6);
  end.writeUInt32LE(Buffer.concat(directory).length, 8);
  end.writeUInt32LE(at, 12);
  return Buffer.concat([...files, ...directory, Buffer.from('PK\x05\x06'), end]);
}

test('a body that is too large is refused before it is read, signed in or not', async ({
  request,
  browser,
}) => {
  const reader = await pageOf(browser, 'reader');
  await whileOthersRead(reader, async () => {
    const answer = await request
      .post(`${home()}/theme`, {
        data: Buffer.alloc(20_000_000, 'a'),
        headers: { Origin: home(), 'Content-Type': 'application/x-www-form-urlencoded' },
        failOnStatusCode: false,
      })
      .catch(() => null);
    // The server may hang up while the body is still on its way: that is a refusal too.
    if (answer) expect(answer.status()).toBe(413);
  });
  await reader.context().close();
});

test('a request for hundreds of megabytes ends by itself, and the product goes on', async ({ browser }) => {
  const [analyst, reader] = [await pageOf(browser, 'analyst'), await pageOf(browser, 'reader')];
  await analyst.goto('/workroom');
  const source =
    (await analyst.getByRole('link', { name: 'Sound operations' }).first().getAttribute('href')) ?? '';
  const text = await whileOthersRead(reader, async () => {
    const answer = await analyst.context().request.post(`${home()}/workroom/try`, {
      data: {
        source: source.split('/').at(-1),
        request: { kind: 'sql', text: "select repeat('x', 200000000) as x", columns: [] },
        inputs: [],
      },
      headers: { Origin: home() },
    });
    return answer.text();
  });
  expect(text).toMatch(/MB|memory|larger/);
  await analyst.context().close();
  await reader.context().close();
});

test('files that were made to take all time or memory are read through, and the product goes on', async ({
  browser,
}) => {
  const [analyst, reader] = [await pageOf(browser, 'analyst'), await pageOf(browser, 'reader')];
  const { request } = analyst.context();
  const look = async (content: Buffer) => (await lookedAt(request, content)).seen;
  const wide = Array.from({ length: 21 }, (_, row) =>
    Array.from({ length: 1_600 }, (_, at) => (row === 0 ? `field ${at}` : `${row * at}`)).join(','),
  ).join('\n');
  const record = (id: number): string => `{"id":${id},"note":"${'calm '.repeat(30)}"}`;
  const list = `{"data":[${Array.from({ length: 80_000 }, (_, id) => record(id)).join(',')}]}`;
  await whileOthersRead(reader, async () => {
    const seen = await look(Buffer.from(wide));
    expect([seen.total, seen.fields.length]).toEqual([20, 1_600]);
    const { total, fields } = await look(Buffer.from(list));
    expect([total, fields.length]).toEqual([80_000, 2]);
  });
  await analyst.context().close();
  await reader.context().close();
});

test('a spreadsheet that unpacks to hundreds of megabytes is refused with why, and the product goes on', async ({
  browser,
}) => {
  const [analyst, reader] = [await pageOf(browser, 'analyst'), await pageOf(browser, 'reader')];
  const xml = (text: string): Buffer => Buffer.from(`<?xml version="1.0" encoding="UTF-8"?>${text}`);
  const main = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
  const office = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
  const packages = 'http://schemas.openxmlformats.org/package/2006/relationships';
  const types = 'application/vnd.openxmlformats-officedocument.spreadsheetml';
  const bomb = zipped({
    '[Content_Types].xml': xml(
      `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/xl/workbook.xml" ContentType="${types}.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="${types}.worksheet+xml"/><Override PartName="/xl/sharedStrings.xml" ContentType="${types}.sharedStrings+xml"/></Types>`,
    ),
    '_rels/.rels': xml(
      `<Relationships xmlns="${packages}"><Relationship Id="rId1" Type="${office}/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
    ),
    'xl/workbook.xml': xml(
      `<workbook xmlns="${main}" xmlns:r="${office}"><sheets><sheet name="Crew" sheetId="1" r:id="rId1"/></sheets></workbook>`,
    ),
    'xl/_rels/workbook.xml.rels': xml(
      `<Relationships xmlns="${packages}"><Relationship Id="rId1" Type="${office}/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Type="${office}/sharedStrings" Target="sharedStrings.xml"/></Relationships>`,
    ),
    'xl/sharedStrings.xml': Buffer.concat([
      xml(`<sst xmlns="${main}" count="2" uniqueCount="2">`),
      Buffer.alloc(250_000_000, '<si><t>calm sea and a long swell from the west</t></si>'),
      Buffer.from('</sst>'),
    ]),
    'xl/worksheets/sheet1.xml': xml(
      `<worksheet xmlns="${main}"><sheetData><row r="1"><c r="A1" t="s"><v>0</v></c></row></sheetData></worksheet>`,
    ),
  });
  expect(bomb.length).toBeLessThan(4_000_000);
  await whileOthersRead(reader, async () => {
    const { request } = analyst.context();
    const { ok, problem } = await lookedAt(request, bomb);
    expect(ok).toBe(false);
    expect(problem.why).toMatch(/memory|larger|too/);
  });
  await analyst.context().close();
  await reader.context().close();
});

test('a pattern that was made to take for ever ends at once, and the product goes on', async ({
  browser,
}) => {
  const [analyst, reader] = [await pageOf(browser, 'analyst'), await pageOf(browser, 'reader')];
  await analyst.goto('/workroom');
  const source =
    (await analyst.getByRole('link', { name: 'Tide and weather' }).first().getAttribute('href')) ?? '';
  await whileOthersRead(reader, async () => {
    const answer = await analyst.context().request.post(`${home()}/workroom/try`, {
      data: {
        source: source.split('/').at(-1),
        request: {
          kind: 'http',
          call: { method: 'GET', path: 'stations', query: [], headers: [] },
          format: 'auto',
          records: `$..[?match(@.name, '(((((.*)*)*)*)*)*Z{900}(.*.*.*.*)*Q')]`,
          paging: { kind: 'none' },
          columns: [],
        },
        inputs: [],
      },
      headers: { Origin: home() },
    });
    // The pattern was read and matched nothing; it did not end in a time-out.
    expect((await answer.json()).problem.why).toBe('there are no records at that place');
  });
  await analyst.context().close();
  await reader.context().close();
});

test('downloads that nobody reads hold up nobody else', async ({ browser }) => {
  const [analyst, reader] = [await pageOf(browser, 'analyst'), await pageOf(browser, 'reader')];
  await analyst.goto('/workroom');
  const address =
    (await analyst.getByRole('link', { name: 'Sailings', exact: true }).first().getAttribute('href')) ?? '';
  const cookies = await analyst.context().cookies();
  const cookie = cookies.map(({ name, value }) => `${name}=${value}`).join('; ');
  const statuses: number[] = [];
  await whileOthersRead(reader, async () => {
    const requests = Array.from({ length: 40 }, () =>
      get(`${home()}${address}/export?as=csv`, { headers: { cookie }, agent: false }),
    );
    // The first file has come, and two wait until it is written: the others are refused at once.
    await new Promise<void>((resolve, reject) => {
      for (const each of requests) {
        each.once('response', (answer) => {
          // It is never read.
          answer.pause();
          if (statuses.push(answer.statusCode ?? 0) === requests.length - 2) resolve();
        });
        each.on('error', reject);
      }
    });
    for (const each of requests) {
      each.removeAllListeners('error').on('error', () => undefined);
      each.destroy();
    }
  });
  expect(statuses.filter((status) => status === 200)).toHaveLength(1);
  await analyst.context().close();
  await reader.context().close();
});
