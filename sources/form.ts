/* The form that a source is added with, as data: what is asked for, and how it stands together. */

export interface FormChoice {
  readonly value: string;
  readonly words: string;
}

export type FormPart =
  | {
      readonly part: 'text';
      readonly name: string;
      readonly label: string;
      readonly hint?: string;
      /** What stands in it at first. */
      readonly usual?: string;
      readonly mode?: 'numeric' | 'url';
      /** Texts that it is likely one of. */
      readonly among?: readonly string[];
    }
  | { readonly part: 'secret'; readonly label: string }
  | {
      readonly part: 'choice';
      readonly name: string;
      readonly label: string;
      readonly choices: readonly FormChoice[];
    }
  /** Beside each other; `wide`: the first has more room. */
  | { readonly part: 'row'; readonly parts: readonly FormPart[]; readonly wide?: true }
  /** Asked only while a choice stands so. */
  | { readonly part: 'when'; readonly name: string; readonly is: string; readonly parts: readonly FormPart[] }
  | { readonly part: 'certificate'; readonly name: string }
  | { readonly part: 'words'; readonly words: string };

/** What was said in a form, by the names of its fields. */
export type FormTexts = Readonly<Record<string, string | undefined>>;

/** The certificate of an authority of one's own: few need it. */
export const authorityPart: FormPart = { part: 'certificate', name: 'authority' };

/** The texts of a connection, by the names of the form's fields. */
export const textsOf = (connection: object): Record<string, string> =>
  Object.fromEntries(Object.entries(connection).map(([name, value]) => [name, String(value)]));

/** How the two parts of who changes records are called; null where a part is not needed. */
export interface ChangerForm {
  readonly user: string | null;
  readonly secret: string | null;
}
