import { chromium } from '@playwright/test'
import Database from 'better-sqlite3'
const u = 'http://127.0.0.1:4180'
// 10,000 results
const db = new Database('/tmp/cl-data/copper-loop.sqlite'); db.pragma('busy_timeout=5000')
const src = db.prepare("select * from items where state='done' limit 1").get()
const res = db.prepare('select * from results where item_id=?').get(src.id)
const run = db.prepare('select * from runs where id=?').get(src.run_id)
if (!db.prepare("select 1 from runs where id='big'").get()) db.transaction(() => {
  const put = (t, row) => { const k = Object.keys(row); return Number(db.prepare(`insert into ${t} (${k.join()}) values (${k.map(()=>'?').join()})`).run(...Object.values(row)).lastInsertRowid) }
  put('runs', {...run, id:'big', number: 900, loop_name: 'Ten thousand'})
  for (let i=0;i<10000;i++) { const {id, ...item} = src; const itemId = put('items', {...item, run_id:'big', ordinal:i, relative_path:`p${i}.jpg`, state: i%97===0?'failed':'done', error: i%97===0? JSON.stringify({code:'fileEmpty',details:{path:'/x/p.jpg'}}):null }); const {id: rid, ...r} = res; put('results', {...r, item_id:itemId}) }
})()
const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] })
const p = await b.newPage({ viewport: { width: 1280, height: 800 } })
p.on('console', m => m.type()==='error' && console.log('ERR', m.text()))
let t0 = Date.now()
const r = await fetch(u+'/api/runs/big'); const text = await r.text(); console.log('detail', (text.length/1e6).toFixed(1), 'MB', Date.now()-t0, 'ms')
t0 = Date.now(); await fetch(u+'/api/runs'); console.log('runs', Date.now()-t0); t0=Date.now(); await (await fetch(u+'/api/runs')).json(); console.log('runs again', Date.now()-t0)
t0 = Date.now()
await p.goto(u+'/runs/big'); await p.getByText('All 10000').waitFor(); console.log('page', Date.now()-t0)
await p.waitForTimeout(1500)
const frames = await p.evaluate(() => new Promise(done => {
  const el = document.querySelector('[class*=grid]'); const times = []; let last = performance.now(), n = 0
  const long = []; new PerformanceObserver(l => l.getEntries().forEach(e => long.push(e.duration))).observe({ entryTypes: ['longtask'] })
  const step = () => { const now = performance.now(); times.push(now-last); last = now; el.scrollTop += 120; if (++n < 180) requestAnimationFrame(step); else { times.sort((a,b)=>a-b); done({ median: times[90], p95: times[171], worst: times[179], long: long.length, longest: Math.max(0,...long), top: el.scrollTop }) } }
  requestAnimationFrame(step)
}))
console.log('scroll', frames)
await p.screenshot({path:'/tmp/g1.png'})
await p.getByText('Report', {exact:true}).click(); await p.waitForTimeout(1500)
await p.screenshot({path:'/tmp/g2.png'})
const frames2 = await p.evaluate(() => new Promise(done => {
  const el = document.querySelector('.ant-table-tbody-virtual-holder'); const times = []; let last = performance.now(), n = 0
  const step = () => { const now = performance.now(); times.push(now-last); last = now; el.dispatchEvent(new WheelEvent('wheel', {deltaY: 120, bubbles: true, cancelable: true})); if (++n < 120) requestAnimationFrame(step); else { times.sort((a,b)=>a-b); done({ median: times[60], p95: times[114], worst: times[119] }) } }
  requestAnimationFrame(step)
}))
console.log('report scroll', frames2)
// 100,000
await p.goto(u+'/loops/many')
t0 = Date.now(); let worst = 0, last=''
for (let i = 0; i < 1500; i++) {
  const c = await p.locator('[class*=count]').first().textContent({timeout: 200}).catch(()=>null)
  const s0 = Date.now(); await fetch(u+'/api/status'); worst = Math.max(worst, Date.now()-s0)
  if (c && c.slice(0,18) !== last.slice(0,18)) { console.log(Date.now()-t0, c) ; last = c }
  if (c && /JPEG/.test(c)) break
  await p.waitForTimeout(150)
}
console.log('worst status', worst, last)
await p.waitForTimeout(500)
await p.screenshot({path:'/tmp/m2.png'})
await b.close()
