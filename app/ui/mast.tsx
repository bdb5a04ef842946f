import ChevronDown from 'lucide-react/icons/chevron-down';
import type { ReactNode } from 'react';
import { Link, NavLink, useLocation } from 'react-router';
import type { MastOf } from '#server/people/mast.ts';
import { Mark } from './mark.tsx';
import { MenuButton, menuOf } from './menu-button.tsx';

const deskMenu = menuOf(() => import('./mast-menus.tsx').then((module) => module.DeskMenu));
const groupMenu = menuOf(() => import('./mast-menus.tsx').then((module) => module.GroupMenu));
const personMenu = menuOf(() => import('./mast-menus.tsx').then((module) => module.PersonMenu));

export interface MastLink {
  readonly to: string;
  readonly text: string;
  readonly end?: boolean;
  /** The words that it stands under with others; none: by itself. */
  readonly group?: string;
}

const tab = (isHere: boolean): string =>
  `max-w-56 shrink-0 truncate border-b-2 px-2 py-3 text-small ${isHere ? 'border-on-glass text-on-glass' : 'border-transparent text-on-glass-muted hover:text-on-glass'}`;

export type Room = 'desk' | 'workroom' | 'administration';
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
        {of.desks.length > 1 && (
          <MenuButton
            menu={deskMenu}
            props={{ desks: of.desks, home }}
            label="Desks"
            title="Desks"
            className="flex size-7 items-center justify-center text-on-glass-muted hover:text-on-glass"
          >
            <ChevronDown className="size-4" />
          </MenuButton>
        )}
      </div>
      <nav
        aria-label={roomNames[room]}
        className="-mx-1 flex min-w-0 flex-1 items-center gap-x-1 overflow-x-auto"
      >
        {grouped(links).map((entry) =>
          'links' in entry ? (
            <GroupOf key={entry.name} {...entry} />
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
      <MenuButton
        menu={personMenu}
        props={{ of, room, home }}
        label={`You: ${of.person.name}`}
        className="flex min-h-8 shrink-0 items-center gap-1 text-small text-on-glass-muted hover:text-on-glass"
      >
        <span className="hidden sm:inline">{of.person.name}</span>
        <ChevronDown className="size-4" />
      </MenuButton>
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

function GroupOf({ name, links }: Group) {
  const { pathname } = useLocation();
  const here = links.find(({ to }) => to.split('?')[0] === decodeURI(pathname));
  return (
    <MenuButton
      menu={groupMenu}
      props={{ links, here }}
      label={here ? `${name}: ${here.text}` : name}
      className={`flex items-center gap-1 ${tab(here !== undefined)}`}
    >
      <span className="truncate">{here ? `${name}: ${here.text}` : name}</span>
      <ChevronDown className="size-3.5 shrink-0" aria-hidden="true" />
    </MenuButton>
  );
}
