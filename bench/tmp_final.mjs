import { buildMap } from '@violet-crate/core/build/pipeline';
import { lightCrew } from '@violet-crate/host/lightCrew';
import { generatedWorld } from './buildStages.mjs';
let most=0; const t=performance.now();
const iv=setInterval(()=>{most=Math.max(most,process.memoryUsage.rss())},200);
const r=await buildMap(generatedWorld(Number(process.argv[2])),'bench',{quality:'final',anyway:true,crew:lightCrew(),memory:()=>(most=Math.max(most,process.memoryUsage.rss())),onStage:s=>console.log(s.stage,s.state,s.milliseconds,Math.round(s.memory/1048576),s.summary)});
console.log(r.ok,Math.round((performance.now()-t)/1000)+' s', Math.round(most/1048576)+' MiB'); clearInterval(iv); process.exit(0);
