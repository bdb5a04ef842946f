import { memberTexts } from '#core/dataset/http/members.ts';
import { type FetchInto, TooManyRecords } from '../kind.ts';
import { allPages, type HttpRequest, type Service } from './pages.ts';

/** Fetches every page. Where to go on from is told by an input, if the service can be told: `since` itself narrows nothing here, and records seen before win by key. */
export const fetchHttp =
  (service: Service): FetchInto =>
  async (writer, { request, fields, inputs, doing, signal, most, progress }) => {
    const query = request as HttpRequest;
    const pointers = fields.map(
      ({ name }) => query.columns.find((column) => column.name === name)?.column ?? '/',
    );
    let records = 0;
    let calls = 0;
    for await (const page of allPages(service, { request: query, inputs, doing, signal })) {
      calls = page.calls;
      records += page.records.length;
      if (most !== undefined && records > most) throw new TooManyRecords(doing, most);
      await writer.add(page.records.map((record) => memberTexts(record, pointers)));
      await progress(page.records.length);
    }
    return { records, calls };
  };
