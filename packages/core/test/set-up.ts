import fc from 'fast-check';
import { runs, SEED } from './sampling.ts';

fc.configureGlobal({ seed: SEED, numRuns: runs(100) });
