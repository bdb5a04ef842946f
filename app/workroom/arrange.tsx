import X from 'lucide-react/icons/x';
import { GridLayout, type Layout, useContainerWidth } from 'react-grid-layout';
import 'react-grid-layout/css/styles.css';
import { useState } from 'react';
import { arrange, placeByKey } from '#core/dashboard/pane/arrange.ts';
import type { Pane } from '#core/dashboard/pane/schema.ts';
import type { Dashboard } from '#core/dashboard/schema.ts';
import { IconButton } from '../ui/button.tsx';
import { ConfirmRemove } from '../ui/confirm-remove.tsx';

interface Props {
  readonly dashboard: Dashboard;
  /** What else changes when a pane goes, a sentence each. */
  readonly goesWith: (pane: string) => readonly string[];
  readonly onChange: (next: Dashboard) => void;
}

/** The sheet with handles: panes move and resize by mouse, or by arrow keys (with Shift: their size). */
export function Arrange({ dashboard, goesWith, onChange }: Props) {
  const { width, containerRef, mounted } = useContainerWidth();
  const [panes, setPanes] = useState<readonly Pane[]>(dashboard.panes);
  const [announcement, setAnnouncement] = useState('');
  const put = (next: readonly Pane[]): void => {
    setPanes(next);
    onChange({ ...dashboard, panes: [...next] });
  };
  const fromLayout = (layout: Layout): void => {
    const places = new Map(layout.map(({ i, x, y, w, h }) => [i, { x, y, w, h }]));
    put(panes.map((pane) => ({ ...pane, place: places.get(pane.id) ?? pane.place })));
  };
  return (
    <div ref={containerRef}>
      <p className="mb-2 text-small text-muted">
        Drag a pane to move it and its corner to resize it; or choose one with Tab and use the arrow keys,
        with Shift for its size.
      </p>
      <p aria-live="polite" className="sr-only">
        {announcement}
      </p>
      {mounted && (
        <GridLayout
          width={width}
          layout={panes.map(({ id, place }) => ({ i: id, ...place }))}
          gridConfig={{ cols: 12, rowHeight: 36, margin: [28, 8], containerPadding: [0, 0] }}
          dragConfig={{ cancel: 'button' }}
          resizeConfig={{ handles: ['se'] }}
          onDragStop={fromLayout}
          onResizeStop={fromLayout}
        >
          {panes.map((pane) => (
            <section
              key={pane.id}
              // biome-ignore lint/a11y/noNoninteractiveTabindex: the pane itself is what the arrow keys move
              tabIndex={0}
              aria-label={`${pane.title || 'Untitled'}: row ${pane.place.y + 1}, column ${pane.place.x + 1}, ${pane.place.w} wide, ${pane.place.h} high`}
              aria-roledescription="movable pane"
              onKeyDown={(event) => {
                const place = placeByKey(panes, pane.id, event.key, event.shiftKey);
                if (!place || event.target !== event.currentTarget) return;
                event.preventDefault();
                const next = arrange(panes, pane.id, place);
                const now = next.find(({ id }) => id === pane.id)?.place;
                if (now)
                  setAnnouncement(`Row ${now.y + 1}, column ${now.x + 1}, ${now.w} wide, ${now.h} high`);
                put(next);
              }}
              className="flex cursor-move flex-col border-2 border-dashed border-line bg-sheet p-3"
            >
              <div className="flex items-start justify-between gap-2">
                <span className="truncate font-strong">{pane.title || 'Untitled'}</span>
                <ConfirmRemove
                  what={`“${pane.title || 'Untitled'}”`}
                  goesWith={goesWith(pane.id)}
                  canUndo
                  onRemove={() => put(panes.filter(({ id }) => id !== pane.id))}
                  trigger={
                    <IconButton name={`Remove ${pane.title || 'this pane'}`}>
                      <X className="size-4" />
                    </IconButton>
                  }
                />
              </div>
              <span className="text-small text-muted">{pane.kind}</span>
            </section>
          ))}
        </GridLayout>
      )}
    </div>
  );
}
