import { useSyncExternalStore } from 'react';
import { hereInFull } from '../ui/here.ts';
import { Scroll } from '../ui/scroll.tsx';

const never = () => () => undefined;

/** How events are sent to us, with the address of this installation. */
export function IntakeHelp({ keyText = 'THE-KEY' }: { keyText?: string }) {
  const origin = useSyncExternalStore(
    never,
    () => hereInFull(''),
    () => '',
  );
  return (
    <div className="flex flex-col gap-3">
      <p className="text-slate">
        OTLP logs go to <span className="font-mono break-all">{origin}/v1/logs</span>, in the protocol’s JSON
        encoding. An exporter that adds the path by itself is given{' '}
        <span className="font-mono break-all">{origin}</span>; its headers are{' '}
        <span className="font-mono break-all">authorization=Bearer {keyText}</span>. Lines of JSON can be sent
        by anything:
      </p>
      <Scroll label="Example" className="bg-well p-3 font-mono text-small">
        <pre>
          {`curl ${origin}/intake/lines \\
  -H 'Authorization: Bearer ${keyText}' \\
  --data-binary @events.ndjson`}
        </pre>
      </Scroll>
    </div>
  );
}
