import { ChevronDown } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';
import { Form, Link, NavLink, useSubmit } from 'react-router';
import { Mark } from './mark.tsx';

export interface MastLink {
  readonly to: string;
  readonly text: string;
  readonly end?: boolean;
}

export interface MastPerson {
  readonly name: string;
  readonly email: string;
  readonly role: string;
}

const item =
  'flex w-full items-center rounded-[3px] px-2.5 py-1.5 text-left text-body outline-none data-highlighted:bg-wash data-highlighted:text-accent';

/** The one thin bar on top, in both rooms: whose page this is, where else one can go, and who one is. */
export function Mast({
  name,
  home,
  links,
  person,
  mayBuild,
  room,
  children,
}: {
  name: string;
  home: string;
  links: readonly MastLink[];
  person: MastPerson;
  mayBuild: boolean;
  room: 'desk' | 'workroom';
  children?: ReactNode;
}) {
  const submit = useSubmit();
  return (
    <header className="mast glass sticky top-0 z-30 flex min-h-12 items-center gap-x-5 px-4 sm:px-7 [&_:focus-visible]:outline-on-glass">
      <Link to={home} className="flex shrink-0 items-center gap-2 font-strong">
        <Mark />
        {name}
      </Link>
      <nav
        aria-label={room === 'desk' ? 'Dashboards' : 'Workroom'}
        className="-mx-1 flex min-w-0 flex-1 items-center gap-x-1 overflow-x-auto"
      >
        {links.map(({ to, text, end }) => (
          <NavLink
            key={to}
            to={to}
            end={end ?? true}
            className={({ isActive }) =>
              `max-w-56 shrink-0 truncate border-b-2 px-2 py-3 text-small ${isActive ? 'border-on-glass text-on-glass' : 'border-transparent text-on-glass-muted hover:text-on-glass'}`
            }
          >
            {text}
          </NavLink>
        ))}
      </nav>
      {children}
      {mayBuild && (
        <Link
          to={room === 'desk' ? '/workroom' : '/'}
          className="hidden shrink-0 text-small text-on-glass-muted hover:text-on-glass sm:block"
        >
          {room === 'desk' ? 'Workroom' : 'Back to the desk'}
        </Link>
      )}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          className="flex min-h-8 shrink-0 items-center gap-1 text-small text-on-glass-muted hover:text-on-glass"
          aria-label={`You: ${person.name}`}
        >
          <span className="hidden sm:inline">{person.name}</span>
          <ChevronDown className="size-4" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            sideOffset={6}
            className="z-50 w-64 rounded-[6px] border border-line bg-sheet p-1.5 text-ink shadow-[0_8px_28px_rgb(0_0_0/0.16)]"
          >
            <DropdownMenu.Label className="px-2.5 py-1.5 text-small text-muted">
              {person.email}
              <br />
              {person.role}
            </DropdownMenu.Label>
            {mayBuild && (
              <DropdownMenu.Item asChild className={item}>
                <Link to={room === 'desk' ? '/workroom' : '/'}>
                  {room === 'desk' ? 'Go to the workroom' : 'Back to the desk'}
                </Link>
              </DropdownMenu.Item>
            )}
            {(['day', 'night'] as const).map((theme) => (
              <DropdownMenu.Item
                key={theme}
                className={item}
                onSelect={() => void submit({ theme }, { method: 'post', action: '/theme', navigate: false })}
              >
                {theme === 'day' ? 'Daylight theme' : 'Night theme'}
              </DropdownMenu.Item>
            ))}
            <Form method="post" action="/sign-out" reloadDocument>
              <DropdownMenu.Item asChild className={item}>
                <button type="submit">Sign out</button>
              </DropdownMenu.Item>
            </Form>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </header>
  );
}
