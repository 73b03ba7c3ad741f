import { build } from './lib/build.ts';

await build();
