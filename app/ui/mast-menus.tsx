import Check from 'lucide-react/icons/check';
import * as DropdownMenu from 'radix-ui/dropdown-menu';
import { type ReactNode, useRef } from 'react';
import { Form, Link, useLocation, useSubmit } from 'react-router';
import type { Look } from '#server/cookies.ts';
import type { MastOf } from '#server/people/mast.ts';
import { untilLoaded } from './load-again.ts';
import { lookPath, useLook } from './look.ts';
import type { MastLink, Room } from './mast.tsx';
import type { OpenedMenu } from './menu-button.tsx';

/* The menus of the mast, once they are open. */

const item =
  'flex w-full items-center rounded-[3px] px-2.5 py-1.5 text-left text-body outline-none data-highlighted:bg-wash data-highlighted:text-accent';
const sheet =
  'z-50 rounded-[6px] border border-line bg-sheet p-1.5 text-ink shadow-[0_8px_28px_rgb(0_0_0/0.16)]';

function Menu({
  label,
  anchor,
  byKeys,
  onClose,
  align = 'start',
  offset = 6,
  width = 'w-64',
  children,
}: OpenedMenu & {
  readonly align?: 'start' | 'end';
  readonly offset?: number;
  readonly width?: string;
  readonly children: ReactNode;
}) {
  const isFirst = useRef(byKeys);
  return (
    <DropdownMenu.Root
      open
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
    >
      {/* It stands under its button, over which this lies. */}
      <DropdownMenu.Trigger asChild>
        <span aria-hidden="true" className="pointer-events-none absolute inset-0" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          onFocus={({ currentTarget, target }) => {
            if (!isFirst.current || target !== currentTarget) return;
            isFirst.current = false;
            currentTarget.querySelector<HTMLElement>('[role^="menuitem"]')?.focus();
          }}
          aria-labelledby={undefined}
          aria-label={label}
          align={align}
          sideOffset={offset}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            anchor.current?.focus();
          }}
          className={`${sheet} ${width}`}
        >
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** The dashboards of a group. */
export function GroupMenu({
  links,
  here,
  ...menu
}: OpenedMenu & { readonly links: readonly MastLink[]; readonly here: MastLink | undefined }) {
  return (
    <Menu {...menu} offset={2} width="max-w-80">
      {links.map(({ to, text }) => (
        <DropdownMenu.Item key={to} asChild className={item}>
          <Link to={to} aria-current={to === here?.to ? 'page' : undefined}>
            {text}
          </Link>
        </DropdownMenu.Item>
      ))}
    </Menu>
  );
}

/** The desks that one may read. */
export function DeskMenu({
  desks,
  home,
  ...menu
}: OpenedMenu & { readonly desks: MastOf['desks']; readonly home: string }) {
  return (
    <Menu {...menu}>
      <DropdownMenu.Label className="px-2.5 py-1.5 text-small text-muted">Desks</DropdownMenu.Label>
      {desks.map(({ slug, name }) => (
        <DropdownMenu.Item key={slug} asChild className={item}>
          <Link to={`/desk/${slug}`} aria-current={home === `/desk/${slug}` ? 'true' : undefined}>
            <span className="truncate">{name}</span>
          </Link>
        </DropdownMenu.Item>
      ))}
    </Menu>
  );
}

interface Choices {
  readonly label: string;
  readonly choices: readonly { readonly value: string; readonly words: string }[];
}

/** What can be chosen of how pages look. */
const looks: readonly (Choices & { readonly name: keyof Look })[] = [
  {
    name: 'theme',
    label: 'Theme',
    choices: [
      { value: 'day', words: 'Daylight' },
      { value: 'night', words: 'Night' },
    ],
  },
  {
    name: 'rows',
    label: 'Rows of tables',
    choices: [
      { value: 'roomy', words: 'Roomy' },
      { value: 'close', words: 'Close together' },
    ],
  },
  {
    name: 'numbers',
    label: 'Numbers',
    choices: [
      { value: 'point', words: '1,234.5' },
      { value: 'comma', words: '1.234,5' },
      { value: 'space', words: '1\u202F234,5' },
    ],
  },
];

/** One thing about how pages look, chosen at once. */
function LookChoice({
  label,
  now,
  choices,
  onChoose,
}: Choices & {
  readonly now: string;
  readonly onChoose: (value: string) => void;
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

/** Who one is, where one can go, and how pages look. */
export function PersonMenu({
  of: { person, mayBuild, mayAdminister },
  room,
  home,
  ...menu
}: OpenedMenu & {
  readonly of: MastOf;
  readonly room: Room;
  readonly home: string;
}) {
  const submit = useSubmit();
  const leaving = useRef<HTMLFormElement>(null);
  const look = useLook();
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
    <Menu {...menu} align="end">
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
      {looks.map(({ name, label, choices }) => (
        <LookChoice
          key={name}
          label={label}
          now={look[name]}
          choices={choices}
          onChoose={(chosen) =>
            void untilLoaded('look', () =>
              submit({ [name]: chosen }, { method: 'post', action: lookPath, navigate: false }),
            )
          }
        />
      ))}
      <DropdownMenu.Separator className="my-1 h-px bg-hair" />
      <Form ref={leaving} method="post" action="/sign-out" reloadDocument />
      <DropdownMenu.Item
        className={item}
        onSelect={(event) => {
          // A menu that closes takes its form away before that is sent.
          event.preventDefault();
          leaving.current?.requestSubmit();
        }}
      >
        Sign out
      </DropdownMenu.Item>
    </Menu>
  );
}
