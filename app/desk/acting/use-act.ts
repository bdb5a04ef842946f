import { useEffect, useRef, useState } from 'react';
import type { ChangeAnswer, ChangeLook } from '#core/change/answer.ts';
import type { Values } from '#core/change/change.ts';
import { newId } from '../../ui/new-id.ts';
import { type AskedAct, isLost, type PostChange } from './use-acting.ts';

/** A record that is to be added together with another, as far as it is filled in. */
export interface FormLine {
  readonly id: string;
  readonly values: Values;
}

export const newLine = (): FormLine => ({ id: newId(), values: {} });

/** A line that nobody has begun is none. */
export const isFilled = ({ values }: FormLine): boolean =>
  Object.values(values).some((value) => value !== null && value.trim() !== '');

/** An action from the question what it would do to the answer what it did. What went wrong is told, and nothing typed is lost. */
export function useAct(intent: AskedAct, post: PostChange, onDone: (answer: ChangeAnswer) => void) {
  const [look, setLook] = useState<ChangeLook | null>(null);
  const [values, setValues] = useState<Values>({});
  /** What is added together with a record, one line for each. */
  const [lines, setLines] = useState<readonly FormLine[]>([]);
  /** What was sent last, which the answer is about. */
  const [sent, setSent] = useState<Values>({});
  const [sentLines, setSentLines] = useState<readonly FormLine[]>([]);
  const [answer, setAnswer] = useState<ChangeAnswer | null>(null);
  const [busy, setBusy] = useState(true);
  const batch = useRef(newId());
  /** Somebody has begun to fill it in, and what they typed stays. */
  const isBegun = useRef(false);
  /** Fields that somebody has filled in and gone on from: what is wrong with those is said at once. */
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const lastKeys = useRef(intent.keys);
  useEffect(() => {
    let isHere = true;
    const { pane, action, keys } = intent;
    // What was known of other records is nothing to fill in for these.
    if (JSON.stringify(keys) !== JSON.stringify(lastKeys.current)) {
      setLook(null);
      setBusy(true);
    }
    lastKeys.current = keys;
    void post({ ask: 'look', pane, do: { action }, keys: keys === 'all' ? keys : [...keys] }).then(
      (found) => {
        if (!isHere) return;
        setBusy(false);
        // Whoever has begun goes on with what they saw, and is told when they send what is otherwise by then.
        if (isBegun.current) return;
        if (found.state === 'look') {
          setLook(found.look);
          setAnswer(null);
          setValues(Object.fromEntries(found.look.fields.map(({ field, value }) => [field.name, value])));
          setLines(found.look.lines ? [newLine()] : []);
        } else setAnswer(found);
      },
    );
    return () => {
      isHere = false;
    };
  }, [intent, post]);
  /** Drops what was filled in. */
  const restart = (): void => {
    isBegun.current = false;
    setLeft(new Set());
    setAnswer(null);
  };
  const send = async (records: readonly { key: string; saw: Values }[]): Promise<void> => {
    if (busy) return;
    setBusy(true);
    setSent(values);
    const filled = lines.filter(isFilled);
    setSentLines(filled);
    const { pane, action } = intent;
    const got = await post({
      ask: 'send',
      batch: batch.current,
      pane,
      do: { action },
      records: records.map(({ key, saw }) => ({ key, saw: { ...saw } })),
      values: { ...values },
      ...(filled.length > 0 ? { lines: filled.map((line) => ({ ...line.values })) } : {}),
    });
    setBusy(false);
    // What may have arrived is sent again as the same; anything else is a change of its own.
    if (!isLost(got)) batch.current = newId();
    if (got.state === 'done') {
      restart();
      onDone(got);
    } else setAnswer(got);
  };
  const fill = (field: string, value: string | null): void => {
    isBegun.current = true;
    setValues((now) => ({ ...now, [field]: value }));
  };
  const fillLines = (next: readonly FormLine[]): void => {
    isBegun.current = true;
    setLines(next);
  };
  const leave = (field: string): void => {
    if (isBegun.current) setLeft((now) => new Set([...now, field]));
  };
  return {
    look,
    values,
    lines,
    sent,
    sentLines,
    fill,
    fillLines,
    left,
    leave,
    isBegun,
    restart,
    answer,
    busy,
    send,
  };
}
