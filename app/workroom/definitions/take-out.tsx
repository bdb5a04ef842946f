import Download from 'lucide-react/icons/download';
import { here } from '../../ui/here.ts';
import { Section } from '../../ui/page.tsx';

/** Downloads of what there is. */
export function TakeOut({ desks }: { desks: readonly { slug: string; name: string }[] }) {
  const link = 'flex items-center gap-1.5 text-accent hover:underline';
  return (
    <Section title="Download">
      <ul>
        {desks.map(({ slug, name }) => (
          <li key={slug} className="border-b border-hair py-1.5">
            <a href={here(`/workroom/definitions/file?desk=${slug}`)} download className={link}>
              <Download className="size-4 shrink-0" aria-hidden="true" />
              <span className="min-w-0 truncate">All of {name}</span>
            </a>
          </li>
        ))}
        {desks.length > 1 && (
          <li className="border-b border-hair py-1.5">
            <a href={here('/workroom/definitions/file')} download className={link}>
              <Download className="size-4 shrink-0" aria-hidden="true" /> All desks
            </a>
          </li>
        )}
      </ul>
      <p className="mt-3 text-small text-muted">
        Each comes with the data sets and sources that it needs, as drafted now. A single dashboard or data
        set is downloaded on its own page. Records and credentials are never in it.
      </p>
    </Section>
  );
}
