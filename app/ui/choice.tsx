import { Command } from 'cmdk';
import Check from 'lucide-react/icons/check';
import ChevronDown from 'lucide-react/icons/chevron-down';
import * as Popover from 'radix-ui/popover';
import * as Select from 'radix-ui/select';
import { type ReactNode, useId, useState } from 'react';
import { isFocusFree } from './focus.ts';
import { pageNonce } from './nonce.ts';

export interface Choice<V extends string> {
  readonly value: V;
  readonly words: string;
  /** What it stands under; choices of one group follow each other. */
  readonly group?: string;
  readonly disabled?: boolean;
}

/** This many can be taken in at a glance; where there are more, a part of the words finds one. */
const mostAtAGlance = 8;

/** Choices out of values and the words for them, in the order in which they are written. */
export const choicesOf = <V extends string>(words: Readonly<Record<V, string>>): Choice<V>[] =>
  (Object.keys(words) as V[]).map((value) => ({ value, words: words[value] }));

/** Choices whose values are what a reader calls them. */
export const plainChoices = <const V extends string>(values: readonly V[]): Choice<V>[] =>
  values.map((value) => ({ value, words: value }));

const sheet =
  'z-50 overflow-hidden rounded-[6px] border border-line bg-sheet text-body text-ink shadow-[0_8px_28px_rgb(0_0_0/0.16)]';
const row =
  'flex min-h-8 cursor-default items-center gap-2 rounded-[4px] py-1 pr-3 pl-2 outline-none select-none aria-disabled:text-muted';
const heading = 'px-2 pt-2 pb-1 text-small font-strong text-muted';

export interface ChoiceProps<V extends string> {
  readonly choices: readonly Choice<V>[];
  /** What stands; in a form that nothing else on the page depends on, what it begins with is enough. */
  readonly value?: V;
  readonly defaultValue?: V | undefined;
  readonly onChange?: (value: V) => void;
  readonly className?: string;
  readonly disabled?: boolean | undefined;
  readonly id?: string | undefined;
  /** In a form: what it is sent as. */
  readonly name?: string | undefined;
  readonly 'aria-label'?: string;
  readonly 'aria-describedby'?: string | undefined;
  readonly 'aria-invalid'?: boolean | undefined;
}

/** One of some choices, in words. */
export function ChoiceBox<V extends string>({
  choices,
  value: given,
  defaultValue,
  onChange,
  className = '',
  disabled,
  name,
  ...named
}: ChoiceProps<V>) {
  const [open, setOpen] = useState(false);
  const [own, setOwn] = useState(defaultValue ?? choices[0]?.value);
  const value = given ?? own ?? '';
  const now = choices.findIndex((each) => each.value === value);
  const choose = (index: string): void => {
    const chosen = choices[Number(index)];
    setOpen(false);
    if (!chosen || chosen.value === value) return;
    setOwn(chosen.value);
    onChange?.(chosen.value);
  };
  const trigger = (
    <button
      type="button"
      disabled={disabled}
      {...named}
      className={`flex items-center justify-between gap-1.5 text-left enabled:hover:border-accent disabled:text-muted ${className}`}
    >
      <span className="min-w-0 truncate">{choices[now]?.words ?? (value === '' ? 'choose' : value)}</span>
      <ChevronDown className="size-3.5 shrink-0 text-muted" aria-hidden="true" />
    </button>
  );
  const box = { trigger, choices, now, open, setOpen, choose };
  return (
    <>
      {name && <input type="hidden" name={name} value={value} disabled={disabled} />}
      {choices.length > mostAtAGlance ? <Finder {...box} /> : <List {...box} />}
    </>
  );
}

interface BoxProps {
  readonly trigger: ReactNode;
  readonly choices: readonly Choice<string>[];
  readonly now: number;
  readonly open: boolean;
  readonly setOpen: (open: boolean) => void;
  readonly choose: (index: string) => void;
}

/** By the time that a list is gone the person may be at work elsewhere; then nothing brings them back. */
const leaveFocus = (event: Event): void => {
  if (!isFocusFree()) event.preventDefault();
};

/** Choices with their places, those of a group together. */
function grouped(choices: readonly Choice<string>[]): [string | undefined, [Choice<string>, number][]][] {
  const groups: [string | undefined, [Choice<string>, number][]][] = [];
  for (const [index, choice] of choices.entries()) {
    const last = groups.at(-1);
    if (last && last[0] === choice.group) last[1].push([choice, index]);
    else groups.push([choice.group, [[choice, index]]]);
  }
  return groups;
}

function List({ trigger, choices, now, open, setOpen, choose }: BoxProps) {
  return (
    <Select.Root open={open} onOpenChange={setOpen} value={String(now)} onValueChange={choose}>
      <Select.Trigger asChild>{trigger}</Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={4}
          collisionPadding={12}
          onCloseAutoFocus={leaveFocus}
          className={`${sheet} max-h-(--radix-select-content-available-height) min-w-(--radix-select-trigger-width) max-w-[min(30rem,92vw)]`}
        >
          <Select.Viewport nonce={pageNonce()} className="p-1">
            {grouped(choices).map(([group, among]) => (
              <Select.Group key={group ?? among[0]?.[1]}>
                {group && <Select.Label className={heading}>{group}</Select.Label>}
                {among.map(([choice, index]) => (
                  <Select.Item
                    key={choice.value}
                    value={String(index)}
                    disabled={choice.disabled ?? false}
                    className={`${row} data-highlighted:bg-wash data-highlighted:text-accent`}
                  >
                    <Ticked on={index === now} />
                    <Select.ItemText>{choice.words}</Select.ItemText>
                  </Select.Item>
                ))}
              </Select.Group>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}

/** How well a choice fits what is typed, 0 for not at all: its very words before its beginning, that before a part. */
function nearness(typed: string, words: string, group: readonly string[]): number {
  const part = typed.trim().toLowerCase();
  const whole = words.toLowerCase();
  if (whole === part) return 1;
  if (whole.startsWith(part)) return 0.8;
  return [whole, ...group].some((each) => each.toLowerCase().includes(part)) ? 0.5 : 0;
}

function Finder({ trigger, choices, now, open, setOpen, choose }: BoxProps) {
  const list = useId();
  const [find, setFind] = useState('');
  const turn = (isOpen: boolean): void => {
    setFind('');
    setOpen(isOpen);
  };
  return (
    <Popover.Root open={open} onOpenChange={turn}>
      <Popover.Trigger
        asChild
        role="combobox"
        aria-haspopup="listbox"
        aria-controls={open ? list : undefined}
        onKeyDown={(event) => {
          const isArrow = event.key === 'ArrowDown' || event.key === 'ArrowUp';
          const isTyped =
            event.key.length === 1 && event.key !== ' ' && !event.ctrlKey && !event.metaKey && !event.altKey;
          if (!isArrow && !isTyped) return;
          event.preventDefault();
          // What is typed on the closed list is looked for.
          setFind(isTyped ? event.key : '');
          setOpen(true);
        }}
      >
        {trigger}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label="Choices"
          align="start"
          sideOffset={4}
          collisionPadding={12}
          onCloseAutoFocus={leaveFocus}
          className={`${sheet} w-[max(var(--radix-popover-trigger-width),min(18rem,92vw))]`}
        >
          <Command
            defaultValue={String(now)}
            loop
            filter={(_, part, [words = '', ...group] = []) => nearness(part, words, group)}
          >
            <Command.Input
              aria-label="Find"
              value={find}
              onValueChange={setFind}
              placeholder="Type a part of it"
              className="w-full border-b border-hair bg-sheet px-3 py-2 text-body text-ink outline-none placeholder:text-muted"
            />
            <Command.List
              id={list}
              className="max-h-[min(18rem,calc(var(--radix-popover-content-available-height)-2.5rem))] overflow-auto p-1"
            >
              <Command.Empty className="px-2 py-2 text-small text-muted">None of them.</Command.Empty>
              {grouped(choices).map(([group, among]) => (
                <Command.Group
                  key={group ?? among[0]?.[1]}
                  heading={group && <span className={heading}>{group}</span>}
                >
                  {among.map(([choice, index]) => (
                    <Command.Item
                      key={choice.value}
                      value={String(index)}
                      keywords={[choice.words, ...(group ? [group] : [])]}
                      disabled={choice.disabled ?? false}
                      onSelect={(index) => {
                        setFind('');
                        choose(index);
                      }}
                      className={`${row} data-[selected=true]:bg-wash data-[selected=true]:text-accent`}
                    >
                      <Ticked on={index === now} />
                      <span className="min-w-0">{choice.words}</span>
                    </Command.Item>
                  ))}
                </Command.Group>
              ))}
            </Command.List>
          </Command>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Ticked({ on }: { on: boolean }) {
  return <Check className={`size-3.5 shrink-0 ${on ? '' : 'invisible'}`} aria-hidden="true" />;
}
