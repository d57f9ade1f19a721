import { useEffect } from 'react';
import { useRouteError } from 'react-router';
import { Trouble } from '../common/Busy.tsx';
import { faultWords } from '../common/Contained.tsx';

/** What stands in the place of a page whose code could not be loaded, or that broke before its frame stood. */
export function RouteFault() {
  const error = useRouteError();
  useEffect(() => console.error(error), [error]);
  // Browsers word it differently, but all name the import.
  const unloaded = error instanceof TypeError && /import|module|fetch/i.test(error.message);
  const words = unloaded
    ? 'This page could not be loaded: the server is away, or the application has been renewed meanwhile. Start it, or load the page anew.'
    : faultWords('This page', error);
  return (
    <div className="page">
      <h1 className="visually-hidden">A page that could not be shown</h1>
      <Trouble retry={() => window.location.reload()}>{words}</Trouble>
    </div>
  );
}
