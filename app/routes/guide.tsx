import type { ReactNode } from 'react';
import Markdown from 'react-markdown';
import { Link } from 'react-router';
import { guardedLoader, notFound, type Signed, to } from '#server/guard.ts';
import { type MastOf, mastOf } from '#server/people/mast.ts';
import { Mast, type MastLink } from '../ui/mast.tsx';
import type { Route } from './+types/guide';

/** The pages of the guide, as they stand in the repository. */
const pages = import.meta.glob<string>('../../docs/guide/*.md', {
  query: '?raw',
  import: 'default',
  eager: true,
});
/** The pictures of the README, which chapters show too. */
const pictures = import.meta.glob<string>('../../docs/screenshots/*.png', {
  query: '?url',
  import: 'default',
  eager: true,
});
const nameOf = (path: string): string => path.replace(/^.*\/|\.md$/g, '');
const texts = new Map(Object.entries(pages).map(([path, text]) => [nameOf(path), text]));
const titleOf = (text: string): string => /^# (.*)$/m.exec(text)?.[1] ?? 'Guide';

interface Loaded {
  readonly of: MastOf;
  readonly text: string;
  readonly chapters: readonly MastLink[];
}

/** A chapter of the guide, or what chapters there are. */
export const loader = guardedLoader<Signed<Route.LoaderArgs>, Promise<Loaded>>(
  to('read', 'oneself'),
  async ({ params, user }) => {
    const text = texts.get(params.chapter ?? 'README');
    if (text === undefined) throw notFound('chapter of the guide');
    const chapters = [...texts]
      .filter(([name]) => name !== 'README')
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([name, each]) => ({ to: `/guide/${name}`, text: titleOf(each) }));
    return { of: await mastOf(user), text, chapters };
  },
);

export default function Guide({ loaderData: { of, text, chapters } }: Route.ComponentProps) {
  return (
    <>
      <Mast name="Guide" home="/guide" links={[]} of={of} room="administration" />
      <div className="mx-auto grid max-w-[1240px] gap-x-12 px-4 pt-7 pb-20 sm:px-7 md:grid-cols-[15rem_minmax(0,1fr)]">
        <nav aria-label="Chapters" className="mb-6">
          <ol className="flex flex-col">
            {chapters.map(({ to: path, text: title }) => (
              <li key={path} className="border-b border-hair">
                <Link
                  to={path}
                  className="block py-1.5 hover:text-accent aria-[current=page]:font-semibold aria-[current=page]:text-accent"
                  aria-current={text.startsWith(`# ${title}\n`) ? 'page' : undefined}
                >
                  {title}
                </Link>
              </li>
            ))}
          </ol>
        </nav>
        <main id="main" tabIndex={-1} className="note guide min-w-0">
          <title>{`${titleOf(text)} · Slate Glass`}</title>
          <Markdown skipHtml components={{ a: GuideLink, img: GuidePicture }}>
            {text}
          </Markdown>
        </main>
      </div>
    </>
  );
}

function GuidePicture({ src = '', alt = '' }: { src?: string | Blob | undefined; alt?: string | undefined }) {
  const address = typeof src === 'string' ? pictures[`../../docs/${src.replace('../', '')}`] : undefined;
  return (
    <img
      src={address}
      alt={alt}
      width={1280}
      height={800}
      loading="lazy"
      className="h-auto w-full rounded-[4px] border border-line"
    />
  );
}

/** A link to another chapter leads to it here. */
function GuideLink({ href = '', children }: { href?: string | undefined; children?: ReactNode }) {
  const chapter = /^(\d[\w-]*)\.md$/.exec(href)?.[1];
  return (
    <Link to={chapter ? `/guide/${chapter}` : href} className="text-accent underline">
      {children}
    </Link>
  );
}
