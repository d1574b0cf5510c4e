import { makeFaceMap, eyesOf, knownFace, isWhole, missingOf, REGIONS, COLUMNS, ROWS, BLOCKERS, DIRECTIONS } from '@plinket/core';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { demoScene, largeScene } from './scene.ts';
const { setup, scene, asset } = await demoScene(); const { module } = loadKernel(false);
const kernel = attachKernel(module!, buildAccel(module!, scene.geometry.mesh));
const id = Object.keys(setup.subjects.items)[0]!;
const face = knownFace(setup, id, asset); console.log(face.points, missingOf(face), scene.geometry.objects);
if (!isWhole(face)) throw 1;
const t = performance.now(); const map = await makeFaceMap(eyesOf(kernel), scene.geometry, face); console.log('map', performance.now()-t, scene.geometry.mesh.indices.length/3);
const L: any = { nose:'N', brow:'b', eyeL:'E', eyeR:'e', cheekL:'C', cheekR:'c', mouth:'M', chin:'h', forehead:'f', ear:'a', neck:'k' };
for (let r=0;r<ROWS;r+=2){ let s=''; for(let c=0;c<COLUMNS;c++){const i=r*COLUMNS+c; s+= !map.there[i]?' ':map.object[i]!==map.skin?(['.',':','+','%'][map.object[i]!%4]):L[REGIONS[map.region[i]!]!];} console.log(s);}
const counts=new Array(7).fill(0); map.blockers.forEach(b=>counts[b]++); console.log(BLOCKERS.map((b,i)=>b+':'+(counts[i]/map.blockers.length).toFixed(3)).join(' '));
import { lookUp, farLight, featuresOf, directionAt, scoresOf } from '@plinket/core';
const S: any = { loop:'L','closed triangle':'T', split:'S', butterfly:'B', under:'U', rim:'R', flat:'F', clamshell: 'C' };
let tl=0,tf=0,ts=0,n=0;
for (let el=80; el>=-60; el-=7) { let s=String(el).padStart(4)+' '; for (let az=-180; az<=180; az+=6) { const a=performance.now(); const l=lookUp(map, farLight('k', directionAt(face.frame, az, el)),1); const b=performance.now(); const f=featuresOf(map,l,{azimuth:az,elevation:el}); const c=performance.now(); const q=scoresOf(f); tl+=b-a; tf+=c-b; ts+=performance.now()-c; n++; s+= q[0]!.score>0.25? S[q[0]!.pattern] : q[0]!.score > 0.02 ? S[q[0]!.pattern].toLowerCase() : '-'; } console.log(s); }
console.log('ms each: look', tl/n, 'features', tf/n, ts/n, n);
for (const [az,el] of [[30,30],[40,35],[-45,45]]) { const l=lookUp(map, farLight('k', directionAt(face.frame, az!, el!)),1); const f=featuresOf(map,l,{azimuth:az!,elevation:el!}); const { shades, nose, patch, ...rest } = f; console.log(az,el,JSON.stringify(rest), nose && {...nose, cells: nose.cells.length}, patch && {...patch, cells: patch.cells.length}); console.log(scoresOf(f).slice(0,2).map((x)=>x.pattern+' '+x.score.toFixed(2)+' '+x.reasons.map(r=>`${r.claim} ${r.measure.toFixed(0)}${r.unit}${r.holds?'':'!'}`).join('; ')).join('\n')); }
