import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { reactCompiler } from './react-compiler.ts';

// Shared memory needs an isolated page; the server sends the same headers.
const headers = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
  'Cross-Origin-Resource-Policy': 'same-origin',
};
const api = { '/api': { target: 'http://127.0.0.1:4870', changeOrigin: true } };

export default defineConfig({
  plugins: [reactCompiler(), react(), tailwindcss()],
  resolve: { dedupe: ['react', 'react-dom'] },
  worker: { format: 'es' },
  build: { target: 'es2023', chunkSizeWarningLimit: 1500, assetsInlineLimit: (file) => (file.endsWith('.wasm') ? false : undefined) },
  server: { headers, proxy: api },
  preview: { headers, proxy: api },
});
