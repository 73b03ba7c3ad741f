import { defineConfig } from 'astro/config';
import node from '@astrojs/node';
import react from '@astrojs/react';

export default defineConfig({
  output: 'server',
  adapter: node({ mode: 'middleware' }),
  integrations: [react()],
  devToolbar: { enabled: false },
  // Host and Origin are checked for every call by src/server/start/serve.ts, with problem details in the answer.
  security: { checkOrigin: false },
  build: { inlineStylesheets: 'never' },
  vite: {
    build: { chunkSizeWarningLimit: 900 },
    ssr: { external: ['postgres', 'pino', 'pg-boss', 'postgrator'] },
  },
});
