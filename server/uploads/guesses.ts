import { type Form, formType } from '#core/dataset/kept/forms.ts';
import { type Guess, guessJsonType, guessType, type Looks } from '#core/dataset/kept/guess.ts';
import type { FoundForm } from '#engine/columnar/forms.ts';
import type { StagedFile } from '#engine/columnar/staged.ts';
import type { Staging } from '#engine/columnar/staging.ts';

/* What the fields of a staged file are taken as. */

/** Types are guessed from this many records at first, and then tried on all of them. */
export const firstLook = 1_000;

/** What a column of the first records is taken as. */
export interface FirstGuess extends Guess {
  readonly name: string;
  readonly looks: Looks;
}
export type Forms = ReadonlyMap<string, FoundForm>;

export const justForms = (forms: Forms): Map<string, Form> =>
  new Map([...forms].map(([name, { form }]) => [name, form]));

/** Fields that JSON writes as texts. */
type Quoted = ReadonlySet<string>;

export const quotedIn = async ({ quoted }: StagedFile, among: 'first' | 'all'): Promise<Quoted> =>
  (await quoted?.(among)) ?? new Set();

/** The type that a file says, or else that its texts have; numbers that JSON writes as texts are texts. */
export function typeFor(name: string, looks: Looks, types: StagedFile['types'], quoted: Quoted): Guess {
  const said = types?.get(name);
  return said ? { type: said } : guessJsonType(looks, quoted.has(name));
}

/** The fields that hold texts, unless the file itself says so. */
export const textsOf = (guesses: readonly FirstGuess[], { types }: StagedFile): string[] =>
  guesses
    .filter(({ name, type, looks }) => type === 'text' && looks.filled > 0 && !types?.has(name))
    .map(({ name }) => name);

/** The forms of some fields; what JSON writes as a text is no number. */
export async function formsIn(
  writer: Staging,
  quoted: Quoted,
  names: readonly string[],
  first?: number,
): Promise<Forms> {
  const found = await writer.forms(names, first);
  return new Map(
    [...found].filter(([name, { form }]) => !(quoted.has(name) && formType(form) === 'decimal')),
  );
}

/** The types and forms that the first records have; texts are read by their forms from here on. */
export async function firstGuesses(
  writer: Staging,
  staged: StagedFile,
): Promise<{ guesses: FirstGuess[]; forms: Forms }> {
  const quoted = await quotedIn(staged, 'first');
  const { looks } = await writer.looks(firstLook);
  const guessed = [...looks].map(([name, each]) => ({
    name,
    looks: each,
    ...typeFor(name, each, staged.types, quoted),
  }));
  const forms = await formsIn(writer, quoted, textsOf(guessed, staged), firstLook);
  if (forms.size === 0) return { guesses: guessed, forms };
  await writer.form(justForms(forms));
  const formed = (await writer.looks(firstLook)).looks;
  return {
    forms,
    guesses: guessed.map((guess) => {
      const again = forms.has(guess.name) ? formed.get(guess.name) : undefined;
      return again ? { name: guess.name, looks: again, ...guessType(again) } : guess;
    }),
  };
}
