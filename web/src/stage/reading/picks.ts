import { toast } from 'sonner';
import type { Spot } from '../../engine/messages.ts';
import { useStage } from '../context.ts';
import { leavePreview, usePlacing } from './placing.ts';

/** Points of one pair of a shadow. */
const PAIR = 2;

/** Takes a click on the picture that a wish or a question waits for; answers whether one did. */
export function useFacePicks(): (spot: Spot) => boolean {
  const { doc, engine, view } = useStage();
  const { ask } = usePlacing();
  return (spot) => {
    const { picking, spots } = view.getState();
    switch (picking) {
      case 'ask':
        engine
          .askAt(spot)
          .then((what) => (what ? view.setState({ asked: { at: spot, what } }) : void toast('Nothing is there.')))
          .catch((error: Error) => toast(error.message));
        return true;
      case 'highlight':
        view.setState({ picking: undefined });
        ask({ kind: 'highlight', at: spot });
        return true;
      case 'shadow': {
        const all = [...spots, spot];
        view.setState({ spots: all });
        if (all.length % PAIR !== 0) return true;
        // two pairs say it better than one: what that showed was not kept
        if (all.length > PAIR) leavePreview({ doc, view });
        view.setState({ picking: undefined, ...(all.length >= 2 * PAIR ? { spots: [] } : {}) });
        ask({
          kind: 'shadow',
          pairs: Array.from({ length: all.length / PAIR }, (_, i) => ({ falls: all[i * PAIR]!, casts: all[i * PAIR + 1]! })),
        });
        return true;
      }
      case 'rim':
        return true;
      default:
        return false;
    }
  };
}
