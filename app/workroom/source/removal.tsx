import { useFetcher } from 'react-router';
import { Button } from '../../ui/button.tsx';
import { ConfirmRemove } from '../../ui/confirm-remove.tsx';

/** Removes a source, which can be done only while no data set is made from it. */
export function Removal({ name, isUsed }: { readonly name: string; readonly isUsed: boolean }) {
  const fetcher = useFetcher<{ refused?: string }>();
  return (
    <>
      {fetcher.data?.refused && (
        <span role="alert" className="self-center text-small text-slipping">
          {fetcher.data.refused}
        </span>
      )}
      <ConfirmRemove
        what={`“${name}”`}
        goesWith={['Its address and credentials are removed; the service itself is not touched.']}
        onRemove={() => void fetcher.submit({ ask: 'remove' }, { method: 'post' })}
        trigger={
          <Button
            look="quiet"
            disabled={isUsed}
            title={
              isUsed ? 'Data sets are made from it. Remove those first; they are listed below.' : undefined
            }
          >
            Remove
          </Button>
        }
      />
    </>
  );
}
