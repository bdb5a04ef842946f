import { useCallback, useRef, useState } from 'react';
import type { FileReading } from '#core/dataset/upload.ts';
import type { Problem } from '#core/value/problem/problem.ts';
import type { SeenFile } from '#server/uploads/look.ts';
import { here } from '../ui/here.ts';
import { lostProblem, postJson } from '../ui/use-question.ts';
import type { LookAnswer, ReceiveAnswer } from './answers.ts';

/** A file on its way: being sent, being read through, or seen. */
export type Upload =
  | { readonly state: 'none'; readonly problem?: Problem }
  | { readonly state: 'sending'; readonly name: string; readonly sent: number; readonly size: number }
  | { readonly state: 'reading'; readonly name: string }
  | {
      readonly state: 'seen';
      readonly name: string;
      readonly file: string;
      readonly seen: SeenFile;
      readonly problem?: Problem;
    };

const lost = (doing: string): Problem => lostProblem(doing, 'Choose the file again.');

/** Sends a file with its progress, and has it read through. */
export function useUpload() {
  const [upload, setUpload] = useState<Upload>({ state: 'none' });
  const sending = useRef<XMLHttpRequest | null>(null);
  const look = useCallback(async (name: string, file: string, reading?: FileReading, before?: SeenFile) => {
    setUpload({ state: 'reading', name });
    const answer = await postJson<LookAnswer>(
      '/workroom/upload/look',
      { file, ...(reading ? { reading } : {}) },
      { ok: false, problem: lost('reading the file') },
    );
    if (answer.ok) setUpload({ state: 'seen', name, file, seen: answer.seen });
    // What was seen before stays, so that how it is read can be corrected again.
    else if (before) setUpload({ state: 'seen', name, file, seen: before, problem: answer.problem });
    else setUpload({ state: 'none', problem: answer.problem });
  }, []);
  const send = useCallback(
    (file: File) => {
      const request = new XMLHttpRequest();
      sending.current = request;
      const tell = (sent: number): void =>
        setUpload({ state: 'sending', name: file.name, sent, size: file.size });
      tell(0);
      request.upload.addEventListener('progress', ({ loaded }) => tell(loaded));
      request.addEventListener('load', () => {
        let answer: ReceiveAnswer;
        try {
          answer = JSON.parse(request.responseText) as ReceiveAnswer;
        } catch {
          answer = { ok: false, problem: lost('sending the file') };
        }
        if (answer.ok === true) void look(file.name, answer.file);
        else setUpload({ state: 'none', problem: answer.problem ?? lost('sending the file') });
      });
      request.addEventListener('error', () =>
        setUpload({ state: 'none', problem: lost('sending the file') }),
      );
      request.addEventListener('abort', () => setUpload({ state: 'none' }));
      request.open('POST', here('/workroom/upload/receive'));
      request.setRequestHeader('Content-Type', 'application/octet-stream');
      request.send(file);
    },
    [look],
  );
  const stop = useCallback(() => sending.current?.abort(), []);
  return { upload, send, stop, look };
}
