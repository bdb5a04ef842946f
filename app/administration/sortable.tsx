import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import GripVertical from 'lucide-react/icons/grip-vertical';
import type { ReactNode } from 'react';

interface Item {
  readonly id: string;
  /** As it is spoken. */
  readonly name: string;
}

/** A list whose order is changed by dragging, or by keys: Space takes hold of a handle, arrows move it, Space lets go. */
export function Sortable<T extends Item>({
  items,
  onOrder,
  children,
}: {
  items: readonly T[];
  onOrder: (items: readonly T[]) => void;
  children: (item: T) => ReactNode;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const nameOf = (id: string | number | undefined): string =>
    items.find((item) => item.id === id)?.name ?? '';
  const placeOf = (id: string | number | undefined): number => items.findIndex((item) => item.id === id) + 1;
  const end = ({ active, over }: DragEndEvent): void => {
    if (over && active.id !== over.id)
      onOrder(arrayMove([...items], placeOf(active.id) - 1, placeOf(over.id) - 1));
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={end}
      accessibility={{
        screenReaderInstructions: {
          draggable: 'Press Space to take hold, arrow keys to move, Space to let go, Escape to cancel.',
        },
        announcements: {
          onDragStart: ({ active }) => `${nameOf(active.id)} is held.`,
          onDragOver: ({ active, over }) =>
            over ? `${nameOf(active.id)} is number ${placeOf(over.id)} of ${items.length}.` : undefined,
          onDragEnd: ({ active, over }) =>
            over ? `${nameOf(active.id)} is number ${placeOf(over.id)} now.` : undefined,
          onDragCancel: ({ active }) => `${nameOf(active.id)} stays where it was.`,
        },
      }}
    >
      <SortableContext items={items.map(({ id }) => id)} strategy={verticalListSortingStrategy}>
        <ul className="border-t border-hair">
          {items.map((item) => (
            <Row key={item.id} item={item}>
              {children(item)}
            </Row>
          ))}
        </ul>
      </SortableContext>
    </DndContext>
  );
}

function Row({ item, children }: { item: Item; children: ReactNode }) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id: item.id,
  });
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`flex items-center gap-2 border-b border-hair bg-paper py-1.5 ${isDragging ? 'relative z-10 opacity-90' : ''}`}
    >
      <button
        type="button"
        {...attributes}
        {...listeners}
        aria-label={`Move ${item.name}`}
        className="flex size-7 shrink-0 cursor-grab touch-none items-center justify-center rounded-[4px] text-muted hover:bg-wash hover:text-accent"
      >
        <GripVertical className="size-4" />
      </button>
      {children}
    </li>
  );
}
