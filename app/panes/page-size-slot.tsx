import { Choices } from '../ui/choices.tsx';

/** How many records a page of a list has. */
export function PageSizeSlot({
  size,
  sizes,
  onChoose,
}: {
  size: number;
  sizes: readonly number[];
  onChoose: (size: number) => void;
}) {
  return (
    <Choices
      choices={sizes.map((each) => ({ value: String(each), words: `${each} to a page` }))}
      now={String(size)}
      onChoose={(value) => onChoose(Number(value))}
    />
  );
}
