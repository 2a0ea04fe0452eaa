import { defineConfig } from 'vite'

// What computes, as one script that tests load.
export default defineConfig({
  resolve: { alias: { '@': '/src' } },
  define: { 'process.env.NODE_ENV': '"production"' },
  build: {
    outDir: 'dist/logic',
    target: 'es2022',
    lib: { entry: 'logic/index.ts', formats: ['es'], fileName: 'logic' },
  },
})
