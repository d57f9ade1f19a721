import { parentPort, workerData } from 'node:worker_threads';
import { answerApart } from '@violet-crate/host/apart';
import { doBankWork, type BankOrder } from './bankWork.ts';

answerApart(
  (reply) => parentPort!.postMessage(reply),
  () => doBankWork(workerData as BankOrder),
);
