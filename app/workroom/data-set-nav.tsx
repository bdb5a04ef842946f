import { NavLink } from 'react-router';

const pages = [
  ['', 'Request and fields'],
  ['/steps', 'Steps'],
  ['/rules', 'Subsets, checks and rules'],
  ['/changes', 'Changes'],
  ['/lineage', 'What depends on it'],
] as const;

/** The pages of one data set, as plain words. */
export function DataSetNav({ id, isKept }: { id: string; isKept: boolean }) {
  const shown = isKept ? [...pages, ['/records', 'Kept records'] as const] : pages;
  return (
    <nav aria-label="This data set" className="mb-5 flex flex-wrap gap-x-6 gap-y-1 border-b border-line">
      {shown.map(([path, words]) => (
        <NavLink
          key={path}
          to={`/workroom/data-sets/${id}${path}`}
          end
          prefetch="intent"
          className={({ isActive }) =>
            `-mb-px border-b-2 py-1.5 ${isActive ? 'border-accent font-strong text-accent' : 'border-transparent text-slate hover:text-accent'}`
          }
        >
          {words}
        </NavLink>
      ))}
    </nav>
  );
}
