import type { Room } from './act';
import { amend, confirmRound } from './beginningAnew';
import { askAgain, endGathering, extend, giveNotice, pass, remind, setEnough, setTimes } from './chasing';
import type { Act } from './commands';
import { comment, reopenComment, resolveComment } from './commenting';
import { addSecondHolder, copyLink, correctAddress, dropSecondHolder, reassign } from './holding';
import { agree, delegate, giveBack, name, take } from './passingOn';
import { attach, giveFacts, keepFrozen, plan, putFields, send } from './preparing';
import { complete, keepFinals, wake } from './releasing';
import { answerQuestion, askQuestion, decide, see } from './responding';
import { extendWhole, goOn, handControl, pause, setReminders, withdraw } from './steering';

/** Every act: the one place in which deciding, offering and the rights of members look them up. */
export const acts: { readonly [A in Act]: Room<A> } = {
  plan,
  giveFacts,
  putFields,
  attach,
  send,
  see,
  decide,
  comment,
  resolveComment,
  reopenComment,
  confirmRound,
  extend,
  setTimes,
  askAgain,
  pass,
  remind,
  giveNotice,
  setReminders,
  take,
  giveBack,
  name,
  agree,
  setEnough,
  endGathering,
  askQuestion,
  answerQuestion,
  pause,
  goOn,
  amend,
  handControl,
  extendWhole,
  delegate,
  reassign,
  correctAddress,
  addSecondHolder,
  dropSecondHolder,
  copyLink,
  withdraw,
  keepFrozen,
  keepFinals,
  complete,
  wake,
};
