import type { ReactNode } from 'react';
import { Form, Link } from 'react-router';
import { Button } from './button.tsx';
import { TextField } from './field.tsx';

/* What lists of our own records share: how something in them is found, their heads, and their pages. */

/** Finds in a list what has a text in it; `children` say what else it is found by, and `after` stands behind the button. */
export function FindForm({
  label,
  find,
  children,
  after,
}: {
  label: string;
  find: string;
  children?: ReactNode;
  after?: ReactNode;
}) {
  return (
    <Form role="search" className="mb-4 flex max-w-3xl items-end gap-2">
      <div className="max-w-md flex-1">
        <TextField label={label} name="find" defaultValue={find} maxLength={200} />
      </div>
      {children}
      <Button type="submit">Find</Button>
      {after}
    </Form>
  );
}

/** A table of plain lines under their heads. */
export function PlainTable({ heads, children }: { heads: readonly string[]; children: ReactNode }) {
  return (
    <table className="w-full text-left">
      <thead className="text-small text-slate">
        <tr className="border-b border-line">
          {heads.map((head) => (
            <th key={head} scope="col" className="py-1 pr-4">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </table>
  );
}

/** Leads to the pages beside this one. `asked`: what the address says besides. */
export function OtherPages({
  page,
  hasMore,
  asked,
  words: [before, after],
}: {
  page: number;
  hasMore: boolean;
  asked: Readonly<Record<string, string>>;
  words: readonly [string, string];
}) {
  const at = (number: number): string => `?${new URLSearchParams({ ...asked, page: String(number) })}`;
  const link = 'text-accent hover:underline';
  return (
    <nav aria-label="Pages" className="mt-4 flex gap-4">
      {page > 1 && (
        <Link to={at(page - 1)} className={link}>
          {before}
        </Link>
      )}
      {hasMore && (
        <Link to={at(page + 1)} className={link}>
          {after}
        </Link>
      )}
    </nav>
  );
}

/** What an address says of a list: the text to be found, and which page, from 1. */
export function listAsked(request: Request): { readonly find: string; readonly page: number } {
  const { searchParams } = new URL(request.url);
  return {
    find: (searchParams.get('find') ?? '').trim().slice(0, 200),
    page: Math.min(10_000, Math.max(1, Math.trunc(Number(searchParams.get('page'))) || 1)),
  };
}
