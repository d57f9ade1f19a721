/**
 * `node bench/cancelBuild.mjs ADDRESS`: starts final builds of the demo crate in a running application, cancels each in the
 * middle of its light, and prints how long the answer took and after how long the next build began to run.
 */
const address = process.argv[2] ?? 'http://127.0.0.1:4377';
const json = async (path, body) => {
  const options = body ? { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {};
  return (await fetch(address + path, options)).json();
};
const until = async (id, test) => {
  for (;;) {
    const job = await json(`/api/jobs/${id}`);
    if (test(job)) return job;
    await new Promise((done) => setTimeout(done, 20));
  }
};
const crate = (await json('/api/crates')).find(({ manifest }) => manifest.title.startsWith('Pumphouse')).id;
const answers = [];
const frees = [];
for (let round = 0; round < 5; round++) {
  // Another luxel each time, so that the light is not known.
  const job = await json(`/api/crates/${crate}/builds`, {
    map: 'pumphouse',
    quality: 'final',
    parameters: { luxel: 3 + ((Math.floor(performance.timeOrigin) + round) % 400) / 200 },
  });
  await until(job.id, ({ state, step, progress }) => {
    if (state !== 'queued' && state !== 'running') throw new Error(`the build was ${state} before it could be cancelled`);
    return step === 'lighting' && progress > 0.35;
  });
  const start = performance.now();
  const { state } = await json(`/api/jobs/${job.id}/cancel`, {});
  answers.push(performance.now() - start);
  if (state !== 'cancelled') throw new Error(`the job is ${state}`);
  const next = await json(`/api/crates/${crate}/builds`, { map: 'pumphouse', quality: 'draft', parameters: { navCell: 0 } });
  await until(next.id, (one) => one.state === 'running' || one.state === 'done');
  frees.push(performance.now() - start);
  await until(next.id, (one) => one.state === 'done');
}
const told = (values) => `${Math.round(Math.max(...values))} ms at most`;
console.log(`Cancelling a final build in its light: answered after ${told(answers)}, the next one ran after ${told(frees)} (target 1000)`);
