import { type Refusal, refusal } from '../../refusals';
import type { Context } from '../run/context';
import { type Circulation, type Comment, isOfDecision, newest, stagePlanOf } from '../run/state';
import type { ActOn } from './act';
import { whilePaused, writesOrSteers } from './guarding';

/** Whether every stage in which somebody is asked, or was, has its comments closed; the author and the controller may. */
function commentsClosed(state: Circulation, person: string): boolean {
  if (person === state.author || person === state.controller) return false;
  const stages = [...state.seats.values()]
    .filter((seat) => seat.holders.some((holder) => holder.person === person) && seat.status !== 'idle')
    .map((seat) => stagePlanOf(state, seat));
  return stages.length > 0 && stages.every((stage) => !stage.allows.comment);
}

export const comment: ActOn<'whole', 'comment'> = {
  on: 'whole',
  right: 'circulation.comment',
  guard: (state, context) => {
    if (!newest(state)) return refusal('no-version');
    if (state.closed !== null) return refusal('closed');
    const paused = writesOrSteers(state, context) ? null : whilePaused(state);
    return paused ?? (commentsClosed(state, context.actor) ? refusal('comment-not-allowed') : null);
  },
  effect: ({ draft, emit }, { type: _, ...data }) => {
    const { comment: id, thread, file } = data;
    if (thread !== null && draft.comments.get(thread)?.thread !== null) return refusal('no-such-comment');
    if (!draft.versions.some((version) => version.files.some((one) => one.file === file)))
      return refusal('no-such-file');
    if (draft.comments.has(id)) return refusal('no-effect');
    if (isOfDecision(id)) return refusal('no-such-comment');
    emit({ type: 'comment.made', data });
    // Whoever answers has not found it resolved.
    if (thread !== null && draft.comments.get(thread)?.resolved)
      emit({ type: 'comment.reopened', data: { comment: thread } });
    return null;
  },
};

/** Whoever wrote the comment, the author and the controller say whether it is resolved. */
function settles(state: Circulation, context: Context, { thread, by }: Comment): Refusal | null {
  if (thread !== null) return refusal('no-such-comment');
  return [state.author, state.controller, by].includes(context.actor) ? null : refusal('not-yours');
}

export const resolveComment: ActOn<'comment', 'resolveComment'> = {
  on: 'comment',
  right: 'circulation.comment',
  guard: (state, context, own) => settles(state, context, own) ?? (own.resolved ? refusal('no-effect') : null),
  effect: ({ emit }, _command, { id }) => {
    emit({ type: 'comment.resolved', data: { comment: id } });
    return null;
  },
};

export const reopenComment: ActOn<'comment', 'reopenComment'> = {
  on: 'comment',
  right: 'circulation.comment',
  guard: (state, context, own) => settles(state, context, own) ?? (own.resolved ? null : refusal('no-effect')),
  effect: ({ emit }, _command, { id }) => {
    emit({ type: 'comment.reopened', data: { comment: id } });
    return null;
  },
};
