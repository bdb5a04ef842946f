import { parseTemplate } from 'url-template';
import { fieldsOf } from '#core/ask/condition/resolve.ts';
import { checkExpression } from '#core/ask/expression/check.ts';
import type { Field } from '#core/value/field/field.ts';
import type { FieldType } from '#core/value/field/types.ts';
import { isNumeric, isTemporal, parseValue } from '#core/value/field/value.ts';
import { isZone } from '#core/value/period/zone.ts';
import type { Making } from './schema.ts';
import { templateNames } from './template.ts';

/** What a way of making a field comes to: its type and the fields it reads, or why it cannot be. */
export type MakingType =
  | { readonly ok: true; readonly type: FieldType; readonly reads: readonly string[] }
  | { readonly ok: false; readonly why: string };

const no = (why: string): MakingType => ({ ok: false, why });

/** Works out what a making gives over some fields. */
export function makingType(making: Making, fields: readonly Field[]): MakingType {
  const typeOf = (name: string): FieldType | null =>
    fields.find((field) => field.name === name)?.type ?? null;
  const missing = readsOf(making, fields).find((name) => typeOf(name) === null);
  if (missing !== undefined) return no(`there is no field “${missing}”`);
  const yes = (type: FieldType): MakingType => ({ ok: true, type, reads: readsOf(making, fields) });
  switch (making.kind) {
    case 'expression': {
      const checked = checkExpression(making.text, fields);
      return checked.ok ? { ok: true, type: checked.type, reads: checked.fields } : no(checked.why);
    }
    case 'join':
      return making.fields.length === 0 ? no('choose what is put together') : yes('text');
    case 'split':
    case 'extract':
      if (typeOf(making.field) !== 'text') return no(`“${making.field}” is not text`);
      return making.kind === 'extract' ? extracted(making.pattern, yes) : yes('text');
    case 'between': {
      const types = [typeOf(making.from), making.to === undefined ? null : typeOf(making.to)].filter(
        (type): type is FieldType => type !== null,
      );
      if (!types.every(isTemporal)) return no('the time between is of dates or moments');
      if (new Set(types).size > 1)
        return no('one is a date and the other a moment; make both the same first');
      if (types[0] === 'date' && making.unit !== 'day') return no('between dates there are days, not hours');
      return yes('integer');
    }
    case 'bands': {
      const type = typeOf(making.field) ?? 'text';
      if (!isNumeric(type)) return no(`“${making.field}” is not a number`);
      const wrong = making.bands.find(({ below }) => !parseValue('decimal', below).ok);
      if (wrong) return no(`“${wrong.below}” is not a number`);
      const rising = making.bands.every(
        ({ below }, at) => at === 0 || Number(below) > Number(making.bands[at - 1]?.below),
      );
      return rising ? yes('text') : no('each bound is above the one before it');
    }
    case 'bins': {
      const type = typeOf(making.field) ?? 'text';
      if (!isNumeric(type)) return no(`“${making.field}” is not a number`);
      const size = parseValue('decimal', making.size);
      if (!size.ok) return no(size.why);
      if (!(Number(size.value) > 0)) return no('a bin is wider than nothing');
      return yes(type === 'integer' && /^\d+$/.test(size.value) ? 'integer' : 'decimal');
    }
    case 'choose':
      return yes('text');
    case 'link':
      try {
        parseTemplate(making.template);
      } catch {
        return no('the template is not one of RFC 6570');
      }
      return templateNames(making.template) === null
        ? no('a link has {name} and {?name} in it, each a field')
        : yes('text');
    case 'period':
      return isTemporal(typeOf(making.field) ?? 'text')
        ? yes('date')
        : no(`“${making.field}” is neither a date nor a moment`);
    case 'shift':
    case 'clock':
      if (typeOf(making.field) !== 'instant') return no(`“${making.field}” is not a moment`);
      return making.kind === 'clock' && !isZone(making.zone)
        ? no(`there is no time zone “${making.zone}”`)
        : yes('instant');
  }
}

/** Constructs of a pattern that RE2 does not have; DuckDB itself has the last word on the others. */
function extracted(pattern: string, yes: (type: FieldType) => MakingType): MakingType {
  if (/\(\?(=|!|<=|<!)|\\[1-9]/.test(pattern))
    return no('looking around and back-references are not possible');
  try {
    new RegExp(pattern.replace(/\(\?P</g, '(?<'));
  } catch {
    return no('the pattern is not complete');
  }
  return yes('text');
}

/** The fields that a making reads, each once. */
export function readsOf(making: Making, fields: readonly Field[]): string[] {
  switch (making.kind) {
    case 'expression': {
      const checked = checkExpression(making.text, fields);
      return checked.ok ? [...checked.fields] : [];
    }
    case 'join':
      return [...new Set(making.fields)];
    case 'between':
      return [making.from, ...(making.to === undefined ? [] : [making.to])];
    case 'choose':
      return [...new Set(making.when.flatMap(({ where }) => fieldsOf(where)))];
    case 'link':
      return [...new Set(templateNames(making.template) ?? [])];
    case 'shift':
      return [...new Set([making.field, ...(making.where ? fieldsOf(making.where) : [])])];
    default:
      return [making.field];
  }
}
