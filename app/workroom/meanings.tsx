import { Link } from 'react-router';
import type { Meaning } from '#core/dataset/meanings.ts';
import type { DataSet } from '#core/dataset/schema.ts';
import type { Field } from '#core/value/field/field.ts';
import { labelOf, meaningOf } from '#core/value/field/value.ts';
import { formatNumber } from '#core/value/format/format.ts';
import { Button } from '../ui/button.tsx';
import { Section } from '../ui/page.tsx';
import { withPart } from './field-state.ts';
import { useShape } from './steps/use-shape.ts';

/** What fields could be said to stand for, as their values show: so that what a reader picks elsewhere reaches these records too. */
export function Meanings({
  id,
  definition,
  onChange,
}: {
  id: string;
  definition: DataSet;
  onChange: (next: DataSet) => void;
}) {
  const { found = [] } = useShape(id, definition, {
    kind: 'meanings',
    steps: definition.steps?.length ?? 0,
  });
  const { fields } = definition;
  const open = found.flatMap((meaning) => {
    const field = fields.find(({ name }) => name === meaning.field);
    return field && meaningOf(field) === undefined ? [{ field, meaning }] : [];
  });
  if (open.length === 0) return null;
  const say = (of: Field, refers: string): void =>
    onChange({
      ...definition,
      fields: fields.map((field) => (field === of ? withPart(field, 'refers', refers) : field)),
    });
  return (
    <Section
      title="What its fields stand for"
      note="Found by comparing values. Once said, what a reader picks elsewhere reaches these records too."
    >
      <ul>
        {open.map(({ field, meaning: { refers, noun, found: there } }) => (
          <li
            key={field.name}
            className="flex min-h-11 items-center justify-between gap-3 border-b border-hair py-1.5"
          >
            <span className="min-w-0">
              <span className="font-strong">{labelOf(field)}</span>{' '}
              <span className="text-slate">{wordsOf(noun, there)}</span>
            </span>
            {refers === null ? (
              <Link to={`/workroom/data-sets/${there?.dataSet}`} className="shrink-0 text-small text-accent">
                Say there what identifies one
              </Link>
            ) : (
              <Button aria-label={`Say so of ${labelOf(field)}`} onClick={() => say(field, refers)}>
                Say so
              </Button>
            )}
          </li>
        ))}
      </ul>
    </Section>
  );
}

const wordsOf = (noun: Meaning['noun'], found: Meaning['found']): string =>
  found
    ? `holds what identifies ${noun.many}: ${formatNumber(String(Math.round(found.overlap * 1000) / 10))}% of its values do`
    : `identifies each of the ${noun.many}`;
