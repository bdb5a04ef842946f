import { type ComponentType, type ReactNode, type RefObject, useRef, useState } from 'react';
import { later, type Script, useScript } from './later.tsx';

/** What every menu is told by the button that opens it. */
export interface OpenedMenu {
  readonly label: string;
  /** The button, which the focus goes back to. */
  readonly anchor: RefObject<HTMLElement | null>;
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
  const [isOpen, setOpen] = useState(false);
  const anchor = useRef<HTMLButtonElement>(null);
  return (
    <span className="relative flex min-w-0 shrink-0">
      <button
        ref={anchor}
        type="button"
        aria-haspopup="menu"
        aria-expanded={isOpen}
        aria-label={label}
        title={title}
        className={className}
        onClick={() => setOpen(true)}
        onKeyDown={(event) => {
          if (event.key !== 'ArrowDown') return;
          event.preventDefault();
          setOpen(true);
        }}
      >
        {children}
      </button>
      {isOpen && <Opened menu={menu} props={{ ...props, label, anchor, onClose: () => setOpen(false) }} />}
    </span>
  );
}

function Opened<Props extends object>({ menu, props }: { menu: Script<Props>; props: Props }) {
  const { Loaded } = useScript(menu);
  return Loaded && <Loaded {...props} />;
}
