import { defineConfig } from '@playwright/test';

/** Browser tests against the real application, each file with a server and a data folder of its own. */
export default defineConfig({
  testDir: '.',
  // Tests that need no browser can run beside other work; those that draw keep both cores busy.
  projects: [
    { name: 'bare', testMatch: 'killed.spec.ts' },
    { name: 'browser', testMatch: '*.spec.ts', testIgnore: 'killed.spec.ts' },
  ],
  timeout: 480_000,
  // Checks of a map run behind the page, on cores that also draw it.
  expect: { timeout: 20_000 },
  // Files side by side; the tests of one file share an application and come one after the other.
  workers: 2,
  // Machines of continuous integration stall now and then; a test that needs its second try is listed as flaky.
  retries: process.env.CI ? 1 : 0,
  reporter: [['list']],
  use: {
    actionTimeout: 20_000,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
        // WebGL alone is drawn by the software GPU: the page itself through it took three quarters of every test.
        '--disable-gpu-compositing',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
