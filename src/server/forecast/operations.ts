import { leastHistory } from '@/core/forecast/model';
import { shape } from '../operations/input';
import { inGeneral, memberOperation } from '../operations/operation';
import { newestModel, trackingOf } from './learn';

export const forecastOperations = [
  memberOperation({
    name: 'forecast.usual',
    kind: 'query',
    input: shape({}),
    claim: inGeneral('desk.read'),
    /** How long work takes here whoever does it, for trying out routes; null while too little is known of it. */
    run: async (tx) => {
      const model = await newestModel(tx);
      // How long single people take is nobody else's.
      return model && model.n >= leastHistory
        ? { model: { ...model, people: {} }, tracking: await trackingOf(tx) }
        : null;
    },
  }),
];
