import { Shell } from '../../ui/shell/Shell.tsx';
import { WhereView, whereHelp } from './WhereView.tsx';

/** Where and when money works, and how much of it. */
export function SpendView() {
  return (
    <Shell help={whereHelp}>
      <WhereView />
    </Shell>
  );
}
