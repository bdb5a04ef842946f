import { Link } from 'react-router';
import { ButtonLink } from '../ui/button.tsx';

/** Where shall the records come from? */
export function SourceChoice({ sources }: { sources: readonly { id: string; name: string }[] }) {
  if (sources.length === 0)
    return (
      <div className="flex flex-col items-start gap-3">
        <p className="text-lead text-slate">There is no source yet to take records from.</p>
        <ButtonLink to="/workroom/sources/new" look="main">
          Add a source
        </ButtonLink>
      </div>
    );
  return (
    <ul className="max-w-md">
      {sources.map(({ id, name }) => (
        <li key={id}>
          <Link
            to={`?source=${id}`}
            className="block border-b border-hair py-2.5 text-lead hover:text-accent"
          >
            {name}
          </Link>
        </li>
      ))}
    </ul>
  );
}
