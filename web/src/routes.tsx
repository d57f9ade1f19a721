import type { ComponentType } from 'react';
import { createBrowserRouter, Navigate } from 'react-router';
import { HomePage } from './home/HomePage.tsx';
import { RouteFault } from './shell/RouteFault.tsx';

/** A stage whose code is loaded when it is first opened. */
const stage = (path: string, load: () => Promise<ComponentType>) => ({ path, lazy: async () => ({ Component: await load() }) });

export const router = createBrowserRouter([
  { path: '/', element: <HomePage />, hydrateFallbackElement: <></>, errorElement: <RouteFault /> },
  {
    ...stage('/crates/:id', async () => (await import('./shell/CrateFrame.tsx')).CrateFrame),
    hydrateFallbackElement: <></>,
    errorElement: <RouteFault />,
    children: [
      { index: true, element: <Navigate to="map" replace /> },
      stage('setup', async () => (await import('./setup/SetupPage.tsx')).SetupPage),
      stage('versions', async () => (await import('./versions/VersionsPage.tsx')).VersionsPage),
      stage('assets', async () => (await import('./library/LibraryPage.tsx')).LibraryPage),
      stage('effects', async () => (await import('./effects/EffectsPage.tsx')).EffectsPage),
      stage('data', async () => (await import('./data/DataPage.tsx')).DataPage),
      stage('banks', async () => (await import('./banks/BankPage.tsx')).BankPage),
      stage('scripts', async () => (await import('./scripts/ScriptsPage.tsx')).ScriptsPage),
      stage('map', async () => (await import('./map/MapPage.tsx')).MapPage),
      stage('links', async () => (await import('./links/LinksPage.tsx')).LinksPage),
      stage('build', async () => (await import('./build/BuildPage.tsx')).BuildPage),
      stage('trial', async () => (await import('./trial/TrialPage.tsx')).TrialPage),
      stage('publish', async () => (await import('./publish/PublishPage.tsx')).PublishPage),
    ],
  },
  {
    ...stage('/preferences', async () => (await import('./preferences/PreferencesPage.tsx')).PreferencesPage),
    hydrateFallbackElement: <></>,
    errorElement: <RouteFault />,
  },
  {
    ...stage('/profiles', async () => (await import('./profiles/ProfilesPage.tsx')).ProfilesPage),
    hydrateFallbackElement: <></>,
    errorElement: <RouteFault />,
  },
  {
    ...stage('/mods/:game', async () => (await import('./mods/ModsPage.tsx')).ModsPage),
    hydrateFallbackElement: <></>,
    errorElement: <RouteFault />,
  },
  { path: '/mods', element: <Navigate to="/mods/brinewick" replace /> },
  { path: '*', element: <Navigate to="/" replace /> },
]);
