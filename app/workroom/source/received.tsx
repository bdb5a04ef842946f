import { counted } from '#core/value/format/counted.ts';
import { formatMoment } from '#core/value/format/format.ts';
import { Section } from '../../ui/page.tsx';
import { IntakeHelp } from '../intake-help.tsx';

interface Props {
  readonly received: { readonly records: number; readonly lastAt: string | null };
  readonly zone: string;
}

/** What other systems have sent to a source, and how they do that. */
export function Received({ received: { records, lastAt }, zone }: Props) {
  return (
    <div className="flex flex-col gap-6">
      <Section title="What was received" note="Kept for a week here; data sets keep what they take from it.">
        <p className="text-lead">
          {lastAt ? (
            <>
              <span className="figures font-strong">{counted(records, 'record')}</span>, the latest at{' '}
              {formatMoment(lastAt, zone)}
            </>
          ) : (
            'Nothing yet.'
          )}
        </p>
      </Section>
      <Section title="How to send">
        <IntakeHelp />
      </Section>
    </div>
  );
}
