import {openContext} from '@/server/context'
import {startRun, runSummary, runResults} from '@/server/runs'
import {loopById, saveLoop} from '@/server/loops'
const c=openContext(process.env)
let loop=loopById(c,'demo-shop')
loop=saveLoop(c,{...loop,intake:{folder:process.cwd()+'/data/demo/pictures',subfolders:true}})
const r=await startRun(c,loop)
const l2=saveLoop(c,{...loop,id:'odd',name:'odd',intake:{folder:process.cwd()+'/data/demo/odd-files',subfolders:true},deliveries:[{...loop.deliveries[0]!,folder:process.cwd()+'/data/demo/delivered/odd'}]})
const r2=await startRun(c,l2)
const t=Date.now()
while(true){ await new Promise(r=>setTimeout(r,200)); const s=runSummary(c,r.id), s2=runSummary(c,r2.id); if(s.state==='done'&&s2.state==='done'){console.log(s,Date.now()-t);break} if(Date.now()-t>60000){console.log(s,s2);break}}
for(const x of runResults(c,r2.id)) console.log(x.relativePath,x.state,x.error,x.sourceUnchanged,x.results.map(r=>r.path.split('/').pop()+' '+r.width+'x'+r.height+' '+r.bytes).join())
process.exit()
