/** The page's worker that holds one test run. */

import { TrialSession, type TrialOrder } from '@violet-crate/core/trial/apart';

const session = new TrialSession((news) => self.postMessage(news), console.error);
self.onmessage = (event: MessageEvent<TrialOrder>) => void session.take(event.data);
