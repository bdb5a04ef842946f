import type { Test } from '#core/ask/condition/schema.ts';
import type { Clause } from '#core/dashboard/schema.ts';
import { focusText } from '#core/dashboard/scope/address.ts';
import type { Focus, OwnGroup, OwnTest } from '#core/dashboard/scope/state.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import { labelOf } from '#core/value/field/value.ts';
import { formatUnit } from '#core/value/format/format.ts';
import type { Clock } from '#core/value/period/period.ts';
import { listWords, testWords, valueWords } from '#core/words/condition.ts';
import { dayWords, periodSentence } from '#core/words/period.ts';
import { clauseSubject } from '../clauses.ts';
import { type Context, dataSetOf, testOf } from '../context.ts';

/** A part of the scope sentence: plain text, or a part that a control stands behind. */
export type Segment =
  | { kind: 'text'; text: string }
  | { kind: 'clause'; text: string; name: string; set: boolean }
  | { kind: 'own'; text: string; index: number }
  | { kind: 'focus'; text: string; index: number };

type Named = Pick<Context, 'dashboard' | 'dataSets' | 'scope' | 'clock' | 'picked'>;

/** The words of a clause's control: "all routes", "Holm – Skerry", "any vessel", "the last 28 days (27 Oct – 23 Nov)". */
export function clauseWords(
  clause: Clause,
  test: Test | null,
  dataSet: DataSet | undefined,
  clock: Clock,
): string {
  if (test === null) return unsetWords(clause);
  const field = clauseSubject(clause, dataSet) ?? { type: 'text' as const };
  switch (test.op) {
    case 'is':
      return listWords(
        test.values.map((value) => (value === null ? `no ${clause.many}` : valueWords(value, field, clock))),
        'or',
      );
    case 'isNot':
      return `all ${clause.many} except ${listWords(test.values.map((value) => valueWords(value, field, clock)))}`;
    case 'during':
      return test.period.kind === 'dates' && test.period.from && !test.period.to
        ? `on ${periodSentence(test.period, clock)}`
        : `${test.period.kind === 'olderThan' ? '' : 'in '}${periodSentence(test.period, clock)}`;
    case 'against':
      if (clause.offer === 'mine') return `my ${clause.many}`;
      return testWords(test, field, clock);
    default:
      return testWords(test, field, clock).replace(/^is /, '');
  }
}

/** What is said of a clause while nothing is chosen. */
function unsetWords({ offer, many }: Clause): string {
  switch (offer) {
    case 'dates':
      return 'at any time';
    case 'values':
    case 'mine':
      return `all ${many}`;
    case 'input':
      return `no ${many} chosen`;
    default:
      return `any ${many}`;
  }
}

/**
 * What the page shows, as one sentence in parts: the clauses, then the reader's own groups, then what is being looked at.
 * Joined, the same parts head prints and exports.
 */
export function scopeSegments(context: Named): Segment[] {
  const { dashboard, dataSets, scope, clock } = context;
  const segments: Segment[] = [];
  const text = (said: string): void => void segments.push({ kind: 'text', text: said });
  dashboard.scope.forEach((clause, index) => {
    const test = testOf(clause, scope);
    if (index > 0) text(', ');
    if (clause.lead) text(`${clause.lead} `);
    const words = clauseWords(clause, test, dataSets.get(clause.dataSet), clock);
    segments.push({ kind: 'clause', name: clause.name, set: test !== null, text: words });
  });
  scope.own.forEach((group, index) => {
    text(dashboard.scope.length + index > 0 ? ' and where ' : 'where ');
    segments.push({ kind: 'own', index, text: ownWords(group, context) });
  });
  scope.focus.forEach((focus, index) => {
    text(index > 0 ? ' and ' : ' · looking at ');
    segments.push({ kind: 'focus', index, text: focusWords(focus, context) });
  });
  const first = segments[0];
  if (first && first.text !== '')
    segments[0] = { ...first, text: first.text.charAt(0).toUpperCase() + first.text.slice(1) };
  return segments;
}

/** “cause is fog or cause is tide”; “cause is fog and delay is at least 20, or cause is tide”. */
export function ownWords(group: OwnGroup, context: Named): string {
  const parts = group.map((part) => part.map((own) => ownTestWords(own, context)).join(' and '));
  return parts.join(group.some((part) => part.length > 1) ? ', or ' : ' or ');
}

export function ownTestWords(own: OwnTest, context: Named): string {
  const field = dataSetOf(own.dataSet, context)?.fields.find(({ name }) => name === own.field);
  return `${(field ? labelOf(field) : own.field).toLowerCase()} ${testWords(own.test, field ?? { type: 'text' }, context.clock)}`;
}

/** What is being looked at: "sailing 20418", "cause weather", "the week of 16 Nov". */
export function focusWords(
  focus: Focus,
  context: Pick<Context, 'dashboard' | 'dataSets' | 'clock' | 'picked'>,
): string {
  const dataSet = dataSetOf(focus.dataSet, context);
  const field = dataSet?.fields.find(({ name }) => name === focus.field);
  if (!dataSet || !field) return focus.value ?? 'blank';
  const { now } = context.clock;
  if (focus.unit && focus.value !== null) {
    if (focus.unit === 'day') return dayWords(focus.value, String(now.getUTCFullYear()));
    const label = formatUnit(focus.value, focus.unit, context.clock);
    return focus.unit === 'week' ? `the week of ${label}` : label;
  }
  if (focus.field === dataSet.key)
    return `${dataSet.noun.one} ${context.picked?.names[focusText(focus)] ?? focus.value ?? ''}`;
  return `${labelOf(field).toLowerCase()} ${valueWords(focus.value, field, context.clock)}`;
}
