import { Link } from 'react-router';
import { useAnswer } from '../../ui/use-question.ts';
import { useFollowUpTurn } from './news.ts';

/** Leads to the follow-ups of a desk, with how many the person has to look at. `count`: as the page came. */
export function FollowUpsLink({ desk, count }: { desk: string; count: number }) {
  const turn = useFollowUpTurn();
  return turn === 0 ? (
    <CountedLink desk={desk} count={count} />
  ) : (
    <LatestLink desk={desk} count={count} turn={turn} />
  );
}

/** The count as it is after news. */
function LatestLink({ desk, count, turn }: { desk: string; count: number; turn: number }) {
  const { answer } = useAnswer<{ count: number }>(`/follow-ups/${desk}/count`, turn);
  return <CountedLink desk={desk} count={answer?.count ?? count} />;
}

function CountedLink({ desk, count }: { desk: string; count: number }) {
  return (
    <Link
      to={`/follow-ups/${desk}${count > 0 ? '?show=mine' : ''}`}
      className={`shrink-0 text-small text-on-glass-muted hover:text-on-glass ${count > 0 ? '' : 'max-sm:hidden'}`}
    >
      <span className="max-sm:sr-only">Follow-ups</span>
      {count > 0 && (
        <span className="figures ml-1.5 rounded-full border border-current px-1.5 font-strong text-on-glass">
          {count}
          <span className="sr-only"> for you</span>
        </span>
      )}
    </Link>
  );
}
