import { Check, ChevronDown } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';
import { Form, Link, NavLink, useLocation, useSubmit } from 'react-router';
import type { MastOf } from '#server/people/mast.ts';
import { useLook } from './look.ts';
import { Mark } from './mark.tsx';

export interface MastLink {
  readonly to: string;
  readonly text: string;
  readonly end?: boolean;
  /** The words that it stands under with others; none: by itself. */
  readonly group?: string;
}

const item =
  'flex w-full items-center rounded-[3px] px-2.5 py-1.5 text-left text-body outline-none data-highlighted:bg-wash data-highlighted:text-accent';
const sheet =
  'z-50 rounded-[6px] border border-line bg-sheet p-1.5 text-ink shadow-[0_8px_28px_rgb(0_0_0/0.16)]';
const tab = (isHere: boolean): string =>
  `max-w-56 shrink-0 truncate border-b-2 px-2 py-3 text-small ${isHere ? 'border-on-glass text-on-glass' : 'border-transparent text-on-glass-muted hover:text-on-glass'}`;

type Room = 'desk' | 'workroom' | 'administration';
const roomNames: Readonly<Record<Room, string>> = {
  desk: 'Dashboards',
  workroom: 'Workroom',
  administration: 'Administration',
};

/** The one thin bar on top, in every room: whose page this is, where else one can go, and who one is. */
export function Mast({
  name,
  home,
  links,
  of,
  room,
  accent,
  children,
}: {
  name: string;
  home: string;
  links: readonly MastLink[];
  of: MastOf;
  room: Room;
  /** The colour of its lower edge, by name; none: no edge. */
  accent?: string;
  children?: ReactNode;
}) {
  return (
    <header
      data-accent={accent}
      className="mast glass sticky top-0 z-30 flex min-h-12 items-center gap-x-5 px-4 sm:px-7 [&_:focus-visible]:outline-on-glass"
    >
      <div className="flex shrink-0 items-center gap-1">
        <Link to={home} className="flex items-center gap-2 font-strong">
          <Mark />
          {name}
        </Link>
        {of.desks.length > 1 && <DeskMenu desks={of.desks} home={home} />}
      </div>
      <nav
        aria-label={roomNames[room]}
        className="-mx-1 flex min-w-0 flex-1 items-center gap-x-1 overflow-x-auto"
      >
        {grouped(links).map((entry) =>
          'links' in entry ? (
            <GroupMenu key={entry.name} {...entry} />
          ) : (
            <NavLink
              key={entry.to}
              to={entry.to}
              end={entry.end ?? true}
              className={({ isActive }) => tab(isActive)}
            >
              {entry.text}
            </NavLink>
          ),
        )}
      </nav>
      {children}
      {of.mayBuild && room !== 'workroom' && (
        <Link
          to="/workroom"
          className="hidden shrink-0 text-small text-on-glass-muted hover:text-on-glass sm:block"
        >
          Workroom
        </Link>
      )}
      {room !== 'desk' && (
        <Link to="/" className="hidden shrink-0 text-small text-on-glass-muted hover:text-on-glass sm:block">
          Back to the desk
        </Link>
      )}
      <PersonMenu of={of} room={room} home={home} />
    </header>
  );
}

interface Group {
  readonly name: string;
  readonly links: readonly MastLink[];
}

/** Links of one group stand together where its first one does. */
function grouped(links: readonly MastLink[]): (MastLink | Group)[] {
  const seen = new Set<string>();
  return links.flatMap((link): (MastLink | Group)[] => {
    if (!link.group) return [link];
    if (seen.has(link.group)) return [];
    seen.add(link.group);
    return [{ name: link.group, links: links.filter(({ group }) => group === link.group) }];
  });
}

function GroupMenu({ name, links }: Group) {
  const { pathname } = useLocation();
  const here = links.find(({ to }) => to.split('?')[0] === decodeURI(pathname));
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className={`flex items-center gap-1 ${tab(here !== undefined)}`}>
        <span className="truncate">{here ? `${name}: ${here.text}` : name}</span>
        <ChevronDown className="size-3.5 shrink-0" aria-hidden="true" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={2} className={`${sheet} max-w-80`}>
          {links.map(({ to, text }) => (
            <DropdownMenu.Item key={to} asChild className={item}>
              <Link to={to} aria-current={to === here?.to ? 'page' : undefined}>
                {text}
              </Link>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function DeskMenu({ desks, home }: { desks: MastOf['desks']; home: string }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="flex size-7 items-center justify-center text-on-glass-muted hover:text-on-glass"
        aria-label="Desks"
        title="Desks"
      >
        <ChevronDown className="size-4" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={6} className={`${sheet} w-64`}>
          <DropdownMenu.Label className="px-2.5 py-1.5 text-small text-muted">Desks</DropdownMenu.Label>
          {desks.map(({ slug, name }) => (
            <DropdownMenu.Item key={slug} asChild className={item}>
              <Link to={`/desk/${slug}`} aria-current={home === `/desk/${slug}` ? 'true' : undefined}>
                <span className="truncate">{name}</span>
              </Link>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** One thing about how pages look, chosen at once. */
function LookChoice({
  label,
  now,
  choices,
  onChoose,
}: {
  label: string;
  now: string;
  choices: readonly { readonly value: string; readonly words: string }[];
  onChoose: (value: string) => void;
}) {
  return (
    <>
      <DropdownMenu.Separator className="my-1 h-px bg-hair" />
      <DropdownMenu.Label className="px-2.5 pt-1 text-small text-muted">{label}</DropdownMenu.Label>
      <DropdownMenu.RadioGroup value={now} onValueChange={onChoose} aria-label={label}>
        {choices.map(({ value, words }) => (
          <DropdownMenu.RadioItem key={value} value={value} className={`${item} justify-between`}>
            {words}
            <DropdownMenu.ItemIndicator>
              <Check className="size-4 text-accent" aria-hidden="true" />
            </DropdownMenu.ItemIndicator>
          </DropdownMenu.RadioItem>
        ))}
      </DropdownMenu.RadioGroup>
    </>
  );
}

function PersonMenu({
  of: { person, mayBuild, mayAdminister },
  room,
  home,
}: {
  of: MastOf;
  room: Room;
  home: string;
}) {
  const submit = useSubmit();
  const look = useLook();
  const choose = (chosen: Record<string, string>): void =>
    void submit(chosen, { method: 'post', action: '/look', navigate: false });
  const { pathname, search } = useLocation();
  const ways = [
    { to: '/account', words: 'Your account', isThere: true },
    { to: '/guide', words: 'Guide', isThere: true },
    { to: '/workroom', words: 'Go to the workroom', isThere: mayBuild && room !== 'workroom' },
    {
      to: `/see-as?${new URLSearchParams({ desk: home.split('/')[2] ?? '', back: pathname + search })}`,
      words: 'See this desk as …',
      isThere: mayBuild && room === 'desk',
    },
    {
      to: '/administration/people',
      words: 'People and desks',
      isThere: mayAdminister && room !== 'administration',
    },
    { to: '/', words: 'Back to the desk', isThere: room !== 'desk' },
  ].filter(({ isThere }) => isThere);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="flex min-h-8 shrink-0 items-center gap-1 text-small text-on-glass-muted hover:text-on-glass"
        aria-label={`You: ${person.name}`}
      >
        <span className="hidden sm:inline">{person.name}</span>
        <ChevronDown className="size-4" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={6} className={`${sheet} w-64`}>
          <DropdownMenu.Label className="px-2.5 py-1.5 text-small text-muted">
            {person.email}
            <br />
            {person.role}
          </DropdownMenu.Label>
          {ways.map(({ to, words }) => (
            <DropdownMenu.Item key={to} asChild className={item}>
              <Link to={to}>{words}</Link>
            </DropdownMenu.Item>
          ))}
          <LookChoice
            label="Theme"
            now={look.theme}
            choices={[
              { value: 'day', words: 'Daylight' },
              { value: 'night', words: 'Night' },
            ]}
            onChoose={(theme) => choose({ theme })}
          />
          <LookChoice
            label="Rows of tables"
            now={look.rows}
            choices={[
              { value: 'roomy', words: 'Roomy' },
              { value: 'close', words: 'Close together' },
            ]}
            onChoose={(rows) => choose({ rows })}
          />
          <LookChoice
            label="Numbers"
            now={look.numbers}
            choices={[
              { value: 'point', words: '1,234.5' },
              { value: 'comma', words: '1.234,5' },
              { value: 'space', words: '1\u202F234,5' },
            ]}
            onChoose={(numbers) => choose({ numbers })}
          />
          <DropdownMenu.Separator className="my-1 h-px bg-hair" />
          <Form method="post" action="/sign-out" reloadDocument>
            <DropdownMenu.Item asChild className={item}>
              <button type="submit">Sign out</button>
            </DropdownMenu.Item>
          </Form>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
