import Joi from 'joi';
import { happenings, levels, type Preferences, ways } from '@/core/circulation/telling/preferences';
import { onCirculation } from '../circulation/claims';
import { flag, oneOf, piece, shape } from '../operations/input';
import { inGeneral, memberOperation } from '../operations/operation';
import { id, instant } from '../operations/pieces';
import { keepLevel, keepPreferences, levelOf, preferencesOf } from './preferences';
import { putAway, toldTo } from './told';

const preferences = piece<Preferences>(
  Joi.object(
    Object.fromEntries(
      happenings.map((happening) => [
        happening,
        Joi.array()
          .items(Joi.valid(...ways))
          .unique()
          .required(),
      ]),
    ),
  ),
);

export const tellingOperations = [
  memberOperation({
    name: 'told.list',
    kind: 'query',
    input: shape({ all: flag }),
    claim: inGeneral('session.own'),
    run: (tx, { all }, actor) => toldTo(tx, actor.person, all),
  }),

  memberOperation({
    name: 'told.putAway',
    kind: 'command',
    input: shape({ until: instant }),
    claim: inGeneral('session.own'),
    changes: ['told'],
    run: async (tx, { until }, actor) => {
      putAway(tx, actor.person, until);
      return null;
    },
  }),

  memberOperation({
    name: 'told.preferences',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('session.own'),
    run: (tx, _input, actor) => preferencesOf(tx, actor.person),
  }),

  memberOperation({
    name: 'told.prefer',
    kind: 'command',
    input: shape({ preferences }),
    claim: inGeneral('session.own'),
    changes: ['told'],
    run: async (tx, input, actor) => {
      keepPreferences(tx, actor.person, input.preferences);
      return null;
    },
  }),

  memberOperation({
    name: 'told.level',
    kind: 'query',
    input: shape({ circulation: id }),
    claim: onCirculation('circulation.read'),
    run: (tx, { circulation }, actor) => levelOf(tx, circulation, actor.person),
  }),

  memberOperation({
    name: 'told.follow',
    kind: 'command',
    input: shape({ circulation: id, level: oneOf(...levels) }),
    claim: onCirculation('circulation.read'),
    changes: ['told'],
    run: async (tx, { circulation, level }, actor) => {
      keepLevel(tx, circulation, actor.person, level);
      return null;
    },
  }),
];
