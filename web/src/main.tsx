import '@fontsource-variable/bricolage-grotesque';
import '@fontsource-variable/inter';
import '@fontsource/jetbrains-mono/400.css';
import 'bootstrap/dist/css/bootstrap.min.css';
import 'bootstrap-icons/font/bootstrap-icons.min.css';
import './theme/theme.css';
import './shell/frame.css';
import './map/map.css';
import './scripts/editor.css';
import './trial/trial.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import { startBackground } from './checks/background.ts';
import { router } from './routes.tsx';
import { applyTheme, storedTheme } from './theme/theme.ts';
import { store } from './state/store.ts';

applyTheme(storedTheme());
startBackground();
createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Provider store={store}>
      <RouterProvider router={router} />
    </Provider>
  </StrictMode>,
);
