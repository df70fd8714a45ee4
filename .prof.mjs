import { chromium } from '@playwright/test';
import { readFileSync } from 'node:fs';
const browser = await chromium.launch({ executablePath:'/usr/bin/chromium', args:['--no-sandbox','--disable-gpu','--autoplay-policy=no-user-gesture-required'] });
const page = await browser.newPage({ viewport:{width:1280,height:800} });
await page.goto('http://localhost:4870/'); await page.getByText(/kHz · engine/).waitFor({timeout:60000});
if (process.argv[2]) { await page.keyboard.press('Space'); await page.waitForTimeout(500); }
const post = page.getByRole('slider', { name: 'Lead voice, high-pass (cuts lows)' });
const b = await post.boundingBox(); const x=b.x+b.width/2,y=b.y+b.height/2;
const s = await page.context().newCDPSession(page); await s.send('Profiler.enable'); await s.send('Profiler.setSamplingInterval',{interval:200});
await page.mouse.move(x,y); await page.mouse.down(); await s.send('Profiler.start');
const t0=Date.now(); let i=0; while(Date.now()-t0<4000){ await page.mouse.move(x+80*Math.sin(i++/8),y); await page.waitForTimeout(10);} 
const {profile}=await s.send('Profiler.stop'); await page.mouse.up();
const self=new Map(), nodes=new Map(profile.nodes.map(n=>[n.id,n])); const dt=profile.timeDeltas;
profile.samples.forEach((id,k)=>{const n=nodes.get(id);const f=n.callFrame;const key=f.functionName+' '+f.url.split('/').pop()+':'+f.lineNumber+':'+f.columnNumber;self.set(key,(self.get(key)??0)+dt[k]/1000);});
const total=[...self.values()].reduce((a,b)=>a+b,0);
console.log('total',total.toFixed(0)); for(const [k,v] of [...self].sort((a,b)=>b[1]-a[1]).slice(0,38)) { const m=/(\S+):(\d+):(\d+)$/.exec(k); let snip=''; try { const src=readFileSync('.next/static/chunks/'+m[1],'utf8'); snip=src.split('\n')[+m[2]].slice(Math.max(0,+m[3]-30),+m[3]+110).replace(/\n/g,' ');} catch{} console.log(v.toFixed(0).padStart(6),k,'  ',snip); }
await browser.close();
