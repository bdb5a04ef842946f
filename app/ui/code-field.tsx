import { TextField } from './field.tsx';

/** The second step of a sign-in, asked for once the password is right. */
export function CodeField({ problem, isFirst = false }: { problem?: string | undefined; isFirst?: boolean }) {
  return (
    <TextField
      label="Code from your device"
      name="code"
      hint={
        isFirst
          ? 'The six figures that it shows now.'
          : 'Six figures. One of your recovery codes does as well.'
      }
      autoComplete="one-time-code"
      autoFocus
      required
      maxLength={40}
      className="font-mono"
      problem={problem}
    />
  );
}
