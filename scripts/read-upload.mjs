/* Reads one uploaded file in a process of its own, with little memory, and tells its parent what came of it. */
const { doTask, problemOf } = await import(new URL('../build/server/read-upload.js', import.meta.url).href);

process.once('message', async (/** @type {{ name: string, args: unknown[] }} */ { name, args }) => {
  try {
    process.send?.({ ok: true, result: (await doTask(name, args)) ?? null });
  } catch (thrown) {
    process.send?.({ ok: false, problem: problemOf(thrown, 'reading the file') });
  }
});
process.once('disconnect', () => process.exit(0));
