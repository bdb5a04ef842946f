import Plus from 'lucide-react/icons/plus';
import { Button } from '../ui/button.tsx';
import { ProblemMessage } from '../ui/message.tsx';
import type { useFoundValues } from './use-found-values.ts';

/** What stands below a list of a field's values: one more by hand, all that there are, and why those are not taken. */
export function FoundValues({
  one,
  onAdd,
  found,
  most,
  tooMany,
}: {
  /** What one of the list is: "A state". */
  one: string;
  /** Null where there is no room for another. */
  onAdd: (() => void) | null;
  found: ReturnType<typeof useFoundValues>;
  /** This many different values are taken. */
  most: number;
  /** What is said of more. */
  tooMany: string;
}) {
  return (
    <>
      <div className="mt-1 flex flex-wrap gap-2">
        <Button look="quiet" disabled={onAdd === null} onClick={() => onAdd?.()}>
          <Plus className="size-4" aria-hidden="true" /> {one}
        </Button>
        <Button look="quiet" disabled={found.busy} onClick={found.find}>
          Find its values
        </Button>
      </div>
      {found.count !== undefined && found.count > most && (
        <p className="text-small text-muted" role="status">
          {tooMany}
        </p>
      )}
      {found.problem && <ProblemMessage problem={found.problem} />}
    </>
  );
}
