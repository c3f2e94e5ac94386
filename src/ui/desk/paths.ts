import { unreachable } from '@/core/unreachable';
import type { TaskRow } from '@/server/desk/view';

/** Where a task is done: one step from the Desk. */
export function pathOf(task: Pick<TaskRow, 'doing' | 'circulation' | 'seat' | 'change'>): string {
  switch (task.doing) {
    case 'write':
    case 'rework':
      return `/draft/${task.change}`;
    case 'plan':
    case 'send':
      return `/circulations/${task.circulation}/plan`;
    case 'putFields':
      return `/circulations/${task.circulation}/fields`;
    case 'resolveStop':
    case 'agree':
    case 'answer':
      return `/circulations/${task.circulation}${task.seat ? `?seat=${task.seat}` : ''}`;
    case 'confirmRound':
      return `/circulations/${task.circulation}?ask=round`;
    case 'goOn':
      return `/circulations/${task.circulation}`;
    case 'release':
      return `/circulations/${task.circulation}?ask=release`;
    case 'contribute':
    case 'review':
    case 'approve':
    case 'sign':
    case 'read':
      return `/circulations/${task.circulation}/act/${task.seat}`;
    default:
      return unreachable(task.doing, 'task');
  }
}
