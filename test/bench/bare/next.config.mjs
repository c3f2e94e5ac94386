import path from 'node:path';

export default {
  poweredByHeader: false,
  serverExternalPackages: ['postgres'],
  turbopack: { root: path.resolve(import.meta.dirname, '../../..') },
};
