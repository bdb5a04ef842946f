import { type ComponentType, type ReactNode, type RefObject, useRef, useState } from 'react';
import { LaterOver, later, type Script } from './later.tsx';

/** What every menu is told by the button that opens it. */
export interface OpenedMenu {
  readonly label: string;
  /** The button, which the focus goes back to. */
  readonly anchor: RefObject<HTMLElement | null>;
  /** It was opened by keys, which its first item has then. */
  readonly byKeys: boolean;
  readonly onClose: () => void;
}

/** A menu whose script comes later than its button. */
export const menuOf = <Props,>(
  load: () => Promise<ComponentType<Props & OpenedMenu>>,
): Script<Props & OpenedMenu> => later(load);

/** A button that opens a menu, by mouse or keys. */
export function MenuButton<Props extends object>({
  menu,
  props,
  label,
  title,
  className,
  children,
}: {
  menu: Script<Props & OpenedMenu>;
  props: Props;
  label: string;
  title?: string;
  className: string;
  children: ReactNode;
}) {
  const [opened, setOpened] = useState<'by mouse' | 'by keys' | null>(null);
  const anchor = useRef<HTMLButtonElement>(null);
  return (
    <span className="relative flex min-w-0 shrink-0">
      <button
        ref={anchor}
        type="button"
        aria-haspopup="menu"
        aria-expanded={opened !== null}
        aria-label={label}
        title={title}
        className={className}
        // A button that is pressed by key is clicked no times.
        onClick={({ detail }) => setOpened(detail === 0 ? 'by keys' : 'by mouse')}
        onKeyDown={(event) => {
          if (event.key !== 'ArrowDown') return;
          event.preventDefault();
          setOpened('by keys');
        }}
      >
        {children}
      </button>
      {opened && (
        <LaterOver
          of={menu}
          props={{ ...props, label, anchor, byKeys: opened === 'by keys', onClose: () => setOpened(null) }}
        />
      )}
    </span>
  );
}
