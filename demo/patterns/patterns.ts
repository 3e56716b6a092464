/** Made-up pictures of what repeats in bold and runs away in perspective: what a fill most easily gets wrong. They are no jobs; the
 *  bench and tests fill holes in them. Written in the renderer's own language; {@link holes} says where. */
export interface Pattern {
  readonly id: string;
  readonly says: string;
  readonly described: string;
  /** Middle and half sides, in pixels of 1200 × 800. */
  readonly holes: readonly (readonly [x: number, y: number, rx: number, ry: number])[];
}

export const size = { w: 1200, h: 800 };

const light = `#version 3.7; global_settings{assumed_gamma 1.0}
background{rgb <.55,.68,.85>}
light_source{<-40,60,-50> rgb 1.5 area_light <6,0,0>,<0,0,6>,3,3 adaptive 1 jitter}
light_source{<30,40,-60> rgb .45 shadowless}
#macro Rough(c1,c2,s) pigment{granite scale s color_map{[0 rgb c1][1 rgb c2]}} finish{diffuse .8 ambient .1} #end`;

export const patterns: readonly Pattern[] = [
  {
    id: 'tiles',
    says: 'chequered tiles before a wall',
    holes: [
      [300, 640, 80, 60],
      [700, 480, 90, 60],
      [900, 400, 60, 60],
    ],
    described: `${light}
camera{location <0,1.7,-4> look_at <0.4,.55,2> angle 58 right x*1.5}

plane{y,0 texture{pigment{checker pigment{granite scale .3 color_map{[0 rgb<.75,.7,.62>][1 rgb<.9,.86,.8>]}} pigment{granite scale .25 color_map{[0 rgb<.18,.2,.22>][1 rgb<.32,.33,.35>]}} rotate y*27 scale .5} finish{diffuse .7 ambient .1 reflection .03}}}
box{<-20,0,4>,<20,6,4.2> texture{Rough(<.7,.62,.5>,<.82,.75,.63>,.4)}}
box{<-20,0,3.93>,<20,.22,4> texture{Rough(<.35,.22,.14>,<.45,.3,.2>,.2)}}`,
  },
  {
    id: 'boards',
    says: 'weathered boards on a slant',
    holes: [
      [250, 350, 90, 60],
      [700, 380, 80, 70],
      [960, 330, 50, 90],
    ],
    described: `${light}
camera{location <-3,1.6,-6> look_at <1.5,1.9,2> angle 55 right x*1.5}

plane{y,0 texture{pigment{bozo scale .05 turbulence 1 color_map{[0 rgb<.12,.25,.05>][.5 rgb<.25,.4,.1>][1 rgb<.45,.5,.2>]}} normal{bumps 1 scale .03}}}
#declare i=0; #while(i<26) box{<-6,i*.2,0>,<8,i*.2+.21,.03> rotate x*-7 translate<0,0,0> rotate y*-28 texture{pigment{wood scale<4,.06,.06> turbulence .12 color_map{[0 rgb<.62,.55,.45>*(.85+.3*mod(i*.37,1))][1 rgb<.75,.69,.6>*(.85+.3*mod(i*.37,1))]} rotate y*88 translate i*3.1 rotate y*-28}}} #declare i=i+1; #end
box{<-1.2,.9,-.1>,<.4,2.6,.02> rotate y*-28 texture{Rough(<.8,.8,.78>,<.9,.9,.88>,.2)}}
box{<-1.1,1,-.13>,<.3,2.5,0> rotate y*-28 texture{pigment{rgb<.1,.13,.17>} finish{reflection .15}}}`,
  },
  {
    id: 'bricks',
    says: 'a brick wall that runs away',
    holes: [
      [250, 400, 80, 70],
      [600, 420, 80, 60],
      [700, 620, 80, 60],
    ],
    described: `${light}
camera{location <-2,1.7,-3.2> look_at <2,1.5,2> angle 60 right x*1.5}

plane{y,0 texture{Rough(<.4,.38,.35>,<.6,.57,.52>,.15) normal{granite .4 scale .1}}}
box{<-8,0,0>,<14,6,.3> texture{pigment{brick pigment{rgb<.72,.68,.62>} pigment{granite scale 1 color_map{[0 rgb<.42,.17,.11>][.6 rgb<.6,.28,.18>][1 rgb<.68,.4,.28>]}} brick_size<.5,.16,.25> mortar .022} normal{brick .5 brick_size<.5,.16,.25> mortar .022} finish{diffuse .8}} rotate y*-24 translate <0,0,1>}`,
  },
  {
    id: 'fence',
    says: 'white pales before leaves',
    holes: [
      [300, 520, 70, 100],
      [800, 540, 80, 80],
      [560, 380, 80, 60],
    ],
    described: `${light}
camera{location <0,1.3,-4> look_at <.3,.9,2> angle 52 right x*1.5}

plane{y,0 texture{pigment{bozo scale .05 turbulence 1.3 color_map{[0 rgb<.1,.22,.04>][.5 rgb<.24,.4,.1>][1 rgb<.5,.52,.2>]}} normal{bumps 1.2 scale .03}}}
box{<-30,0,9>,<30,9,9.1> texture{pigment{bozo scale .25 turbulence 1.5 octaves 6 lambda 2.3 color_map{[0 rgb<.03,.08,.03>][.5 rgb<.12,.24,.07>][.8 rgb<.3,.42,.14>][1 rgb<.6,.65,.4>]}}}}
#declare i=-14; #while(i<30) union{box{<-.06,.08,-.01>,<.06,1.05,.01>} cylinder{<0,1.05,-.01>,<0,1.05,.01>,.06} translate<i*.17,0,0> rotate y*-14 translate z*.6 texture{pigment{granite scale .5 translate i color_map{[0 rgb<.8,.79,.74>][1 rgb<.93,.92,.9>]}}}} #declare i=i+1; #end
box{<-8,.3,.01>,<10,.38,.05> rotate y*-14 translate z*.6 texture{Rough(<.75,.74,.7>,<.9,.9,.87>,.3)}}
box{<-8,.8,.01>,<10,.88,.05> rotate y*-14 translate z*.6 texture{Rough(<.75,.74,.7>,<.9,.9,.87>,.3)}}`,
  },
  {
    id: 'wainscot',
    says: 'flowers over boards',
    holes: [
      [400, 280, 70, 70],
      [800, 440, 70, 70],
      [1000, 580, 70, 80],
    ],
    described: `${light}
camera{location <0,1.5,-3> look_at <.2,1.2,2> angle 50 right x*1.5}

box{<-8,.9,1>,<8,5,1.1> texture{pigment{rgb<.78,.72,.56>}}}
#declare r=0; #while(r<14) #declare c=-16; #while(c<18) 
 union{#declare k=0; #while(k<6) sphere{<.05*cos(k*pi/3),.05*sin(k*pi/3),0>,.033 scale<1,1,.05>} #declare k=k+1; #end texture{pigment{rgb <.5,.16,.18>}} translate<c*.28+mod(r,2)*.14,1.05+r*.2,.995>}
 sphere{0,.03 scale<1,1,.1> texture{pigment{rgb <.85,.65,.2>}} translate<c*.28+mod(r,2)*.14,1.05+r*.2,.993>}
 box{<-.006,-.07,0>,<.006,.0,.002> rotate z*20 texture{pigment{rgb <.2,.33,.2>}} translate<c*.28+mod(r,2)*.14+.03,1.05+r*.2-.08,.995>}
 #declare c=c+1; #end #declare r=r+1; #end
box{<-8,.86,.94>,<8,.92,1> texture{Rough(<.3,.2,.12>,<.4,.28,.18>,.1)}}
#declare i=-20; #while(i<22) box{<i*.22+.004,.1,.97>,<i*.22+.216,.87,1> texture{pigment{wood scale<.03,2,.03> rotate x*90 turbulence .1 translate<i*2.3,i,0> color_map{[0 rgb<.38,.26,.16>][1 rgb<.5,.36,.24>]}}}} #declare i=i+1; #end
box{<-8,0,.98>,<8,.9,1> texture{pigment{rgb<.15,.1,.06>}}}
plane{y,0 texture{Rough(<.35,.1,.1>,<.5,.2,.18>,.06)}}`,
  },
  {
    id: 'awning',
    says: 'a striped awning',
    holes: [
      [300, 330, 80, 60],
      [700, 460, 80, 70],
      [1000, 300, 70, 70],
    ],
    described: `${light}
camera{location <0,2,-4> look_at <0,1.4,2> angle 50 right x*1.5}

plane{y,0 texture{Rough(<.5,.47,.42>,<.68,.65,.6>,.12)}}
#declare i=-30; #while(i<30) #declare A=<i*.12,1.05+.06*sin(i*.5),.9-.5*1>; 
 box{<i*.16,0,0>,<i*.16+.161,1.8,.01> texture{pigment{granite scale .1 color_map{[0 rgb #if(mod(i+30,2)<1)<.62,.14,.12>#else<.82,.78,.7>#end][1 rgb #if(mod(i+30,2)<1)<.72,.2,.17>#else<.92,.89,.82>#end]}}} rotate x*35 rotate y*12 translate<0,1.1,1.4>} 
 cylinder{<i*.16+.08,0,0>,<i*.16+.08,0,.01>,.08 texture{pigment{rgb #if(mod(i+30,2)<1)<.66,.17,.14>#else<.88,.84,.77>#end}} rotate y*12 translate<0,1.1,1.38>}
 #declare i=i+1; #end
box{<-20,0,4>,<20,6,4.2> rotate y*12 texture{Rough(<.45,.48,.5>,<.6,.62,.64>,.5)}}`,
  },
  {
    id: 'street',
    says: 'a kerb, slabs and a white line',
    holes: [
      [520, 560, 70, 70],
      [860, 620, 70, 70],
      [1000, 560, 70, 60],
    ],
    described: `${light}
camera{location <-1,1.6,-4> look_at <.6,.5,3> angle 58 right x*1.5}

plane{y,0 texture{pigment{granite scale .12 color_map{[0 rgb<.16,.16,.17>][1 rgb<.36,.36,.36>]}} normal{granite .5 scale .06}}}
union{box{<1.0,0,-20>,<1.18,.14,60> texture{Rough(<.55,.54,.52>,<.72,.71,.68>,.1)}}
box{<1.18,0,-20>,<5,.13,60> texture{pigment{brick pigment{rgb<.3,.29,.27>} pigment{granite color_map{[0 rgb<.5,.46,.43>][1 rgb<.66,.62,.57>]}} brick_size<.6,10,.6> mortar .02}}}
box{<-.45,.001,-20>,<-.33,.004,60> texture{pigment{granite scale .3 color_map{[0 rgb<.6,.6,.58>][1 rgb<.9,.9,.88>]}}}}
box{<4.2,0,-20>,<4.4,1.2,60> texture{pigment{bozo scale .15 turbulence 1.3 color_map{[0 rgb<.05,.12,.04>][1 rgb<.3,.42,.14>]}}}} rotate y*14}
box{<-60,0,40>,<60,5,40.2> texture{pigment{bozo scale 1 turbulence 1.3 color_map{[0 rgb<.1,.16,.08>][1 rgb<.35,.42,.2>]}}}}`,
  },
  {
    id: 'hex',
    says: 'six-sided tiles before bricks',
    holes: [
      [300, 600, 80, 60],
      [760, 500, 90, 60],
      [600, 350, 80, 60],
    ],
    described: `${light}
camera{location <0,2.1,-3.2> look_at <0.2,.3,1.4> angle 58 right x*1.5}

plane{y,0 texture{pigment{hexagon pigment{granite color_map{[0 rgb<.6,.33,.2>][1 rgb<.72,.45,.3>]}} pigment{granite color_map{[0 rgb<.75,.6,.42>][1 rgb<.85,.72,.55>]}} pigment{granite color_map{[0 rgb<.3,.22,.18>][1 rgb<.42,.32,.26>]}} rotate y*10 scale .3}}}
box{<-20,0,3>,<20,6,3.2> rotate y*-9 texture{pigment{brick pigment{rgb<.62,.62,.6>} pigment{granite color_map{[0 rgb<.78,.8,.8>][1 rgb<.92,.93,.92>]}} brick_size<.4,.2,.4> mortar .015} finish{diffuse .8 reflection .04}}}`,
  },
  {
    id: 'rails',
    says: 'rails and posts in a field',
    holes: [
      [420, 520, 80, 80],
      [620, 460, 80, 80],
      [900, 560, 80, 80],
    ],
    described: `${light}
camera{location <0,1.5,-5> look_at <.5,1.2,2> angle 50 right x*1.5}

sky_sphere{pigment{gradient y color_map{[0 rgb<.85,.88,.92>][.4 rgb<.4,.58,.85>]}}}
plane{y,0 texture{pigment{bozo scale .08 turbulence 1.3 color_map{[0 rgb<.2,.26,.06>][.5 rgb<.4,.45,.14>][1 rgb<.62,.58,.28>]}} normal{bumps 1.2 scale .04}}}
union{#declare i=0; #while(i<4) box{<-20,.35+i*.33,-.02>,<30,.47+i*.33,.02> texture{pigment{wood scale<.05,.05,4> rotate y*90 turbulence .15 translate i*7 color_map{[0 rgb<.36,.28,.2>][1 rgb<.52,.43,.33>]}}}} #declare i=i+1; #end
#declare i=-8; #while(i<14) box{<i*1.7-.07,0,-.1>,<i*1.7+.07,1.6,-.02> texture{Rough(<.3,.23,.16>,<.45,.36,.27>,.1)}} #declare i=i+1; #end rotate y*-12}
box{<-90,0,70>,<90,7,70.2> texture{pigment{bozo scale 2.5 turbulence 1.2 color_map{[0 rgb<.12,.2,.16>][1 rgb<.28,.36,.26>]}}}}`,
  },
  {
    id: 'roof',
    says: 'roof tiles before the sky',
    holes: [
      [300, 440, 80, 60],
      [620, 330, 80, 60],
      [900, 480, 60, 70],
    ],
    described: `${light}
camera{location <-2,2.6,-5> look_at <.8,2.7,2> angle 50 right x*1.5}

sky_sphere{pigment{gradient y color_map{[0 rgb<.85,.88,.92>][.5 rgb<.35,.53,.82>]}}}
union{#declare r=0; #while(r<16) #declare c=-30; #while(c<34)
 cylinder{<c*.17+mod(r,2)*.085,r*.2,0>,<c*.17+mod(r,2)*.085,r*.2+.26,.05>,.088 scale<1,1,.4> texture{pigment{granite translate<c*3.1,r*1.7,0> color_map{[0 rgb<.4,.2,.14>*(.8+.4*mod(c*.37+r*.61+20,1))][1 rgb<.62,.36,.26>*(.8+.4*mod(c*.37+r*.61+20,1))]}}}}
 #declare c=c+1; #end #declare r=r+1; #end
 box{<-6,0,.03>,<6,3.2,.06> texture{pigment{rgb<.2,.12,.1>}}} rotate x*42 rotate y*-20 translate<0,1.1,1.5>}
box{<-20,-1,2>,<20,1.3,2.1> rotate y*-20 texture{Rough(<.74,.7,.62>,<.86,.82,.75>,.6)}}`,
  },
];

/** A hole with a wavy outline. @returns 255 inside, of all the picture */
export function holeOf({ holes }: Pattern, k: number): Uint8Array {
  const [cx, cy, rx, ry] = holes[k];
  const data = new Uint8Array(size.w * size.h);
  for (let y = 0; y < size.h; y++)
    for (let x = 0; x < size.w; x++) {
      const [u, v] = [(x - cx) / rx, (y - cy) / ry];
      const angle = Math.atan2(v, u);
      if (Math.hypot(u, v) < 1 + 0.12 * Math.sin(3 * angle + k) + 0.08 * Math.sin(7 * angle + 2 * k))
        data[y * size.w + x] = 255;
    }
  return data;
}
