// USD that others wrote: what is in it, in whatever unit and axis, and what is refused by name.
import { describe, expect, it } from '@jest/globals';
import { compile } from '../../scene/index.ts';
import { applyPatch, lightLuminance, parseSetup, type Setup } from '../../setup/index.ts';
import { setupWith } from '../../testing/setups.ts';
import { parseUsda, readUsda, UsdError, writeUsda, type UsdPrim } from './index.ts';

const setup: Setup = setupWith({});
const plain = (s: Setup) => JSON.parse(JSON.stringify(s)) as Setup;
const primsOf = (text: string): UsdPrim[] => {
  const all = (prims: UsdPrim[]): UsdPrim[] => prims.flatMap((p) => [p, ...all(p.children)]);
  return all(parseUsda(text).prims);
};

describe('USD from elsewhere', () => {
  const ELSEWHERE = `#usda 1.0
(
    "made by hand"
    metersPerUnit = 0.01
    upAxis = "Z"
)

class "Soft" { float inputs:intensity = 20 }

def Xform "World" (
    variants = { string look = "day" }
    prepend variantSets = "look"
)
{
    variantSet "look" = { "day" { def Scope "Extra" {} } "night" (doc = "dark") {} }
    def Xform "Rig" {
        double3 xformOp:translate = (100, 0, 0)
        float3 xformOp:rotateXYZ = (0, 0, 90)
        uniform token[] xformOpOrder = ["xformOp:translate", "xformOp:rotateXYZ"]

        def RectLight "Soft_Box" (
            inherits = </Soft>
        )
        {
            float width = 80   # of before there were inputs
            float inputs:height = 40
            float inputs:exposure.timeSamples = { 0: 2, 10: 3 }
            color3f inputs:color = (1, 0.5, 0.25)
            double3 xformOp:translate = (50, 0, 150)
            uniform token[] xformOpOrder = ["xformOp:translate"]
        }
        def GeometryLight "Neon" {}
        def SphereLight "Bulb" { float inputs:radius = 5; asset inputs:shaping:ies:file = @./lamp.ies@ }
    }
    def Camera "Main" {
        float focalLength = 50
        float verticalAperture = 24
        float horizontalAperture = 36
        double3 xformOp:translate = (0, -400, 160)
        float xformOp:rotateX = 90
        uniform token[] xformOpOrder = ["xformOp:translate", "xformOp:rotateX"]
    }
}
`;
  it('centimetres, Z up, nested turns, references within, times, colours without a temperature', () => {
    const empty = setup;
    const { patch, left, lights, camera } = readUsda(ELSEWHERE, empty);
    const back = applyPatch(empty, patch);
    expect(() => parseSetup(plain(back))).not.toThrow();
    expect([lights, camera]).toEqual([2, true]);
    const box = back.lights.items['soft-box']!;
    expect(box).toMatchObject({
      kind: 'rectangle',
      name: 'Soft_Box',
      width: 0.8,
      height: 0.4,
      kelvin: 6500,
      picked: { colour: [1, 0.5, 0.25], strength: 1 },
    });
    expect(box.stops).toBe(2);
    // (50, 0, 150) turned by 90° about z and moved by (100, 0, 0): (100, 50, 150) cm, Z up
    const again = primsOf(
      writeUsda(
        back,
        compile(back, () => undefined),
      ).text,
    ).find((p) => p.path === '/Plinket/Lights/soft_2d_box')!;
    const rows = again.properties['xformOp:transform']!.value as number[][];
    [1, 1.5, -0.5].forEach((v, i) => expect(rows[3]![i]).toBeCloseTo(v, 4));
    // it shines down, along its own −z
    [0, 1, 0].forEach((v, i) => expect(rows[2]![i]).toBeCloseTo(v, 4));
    // luminance 20 times that of its colour
    expect(lightLuminance(box)).toBeCloseTo(20 * (0.2126 + 0.7152 * 0.5 + 0.0722 * 0.25), 4);
    // one that says nothing has luminance 1, white
    expect(back.lights.items['bulb']).toMatchObject({ kind: 'ball', diameter: 0.1, kelvin: 6500, picked: { strength: 0 } });
    expect(lightLuminance(back.lights.items['bulb']!)).toBeCloseTo(1, 6);
    back.camera.position.forEach((v, i) => expect(v).toBeCloseTo([0, 1.6, 4][i]!, 4));
    expect(back.camera.target[2]).toBeLessThan(4);
    // lenses are in tenths of a unit: 50 of a centimetre's tenths are millimetres
    expect(back.camera).toMatchObject({ focal: 50, sensor: 24, aspect: 1.5 });
    expect(left.join('\n')).toMatch(/Neon: a GeometryLight/);
    expect(left.join('\n')).toMatch(/Bulb: its profile “.\/lamp.ies”/);
    expect(left.join('\n')).toMatch(/World: its variants/);
  });
  const HEAD = '#usda 1.0\n';
  it.each([
    ['PXR-USDC\0\0', /binary USD file/],
    ['PK\u0003\u0004', /package \(\.usdz\)/],
    ['hello', /does not begin with “#usda/],
    [`${HEAD}def Xform "A" {\n  float x = `, /Line 3: A value is expected/],
    [`${HEAD}def Xform "A" {\n`, /\/A is not closed/],
    [`${HEAD}def Xform "A" { float x = inf }`, /“inf” is no number/],
    [`${HEAD}def RectLight "A" { float inputs:width = "wide" }`, /\/A\.inputs:width must be 1 number/],
    [`${HEAD}def RectLight "A" { color3f inputs:color = (1, 2) }`, /\/A\.inputs:color must be 3 numbers/],
    [`${HEAD}def Xform "A" { uniform token[] xformOpOrder = ["xformOp:spin"]\n double xformOp:spin = 3 }`, /“spin” is no operation/],
    [`${HEAD}def Xform "A" { uniform token[] xformOpOrder = ["xformOp:scale"] }`, /xformOpOrder is not there/],
    [`${HEAD}def Xform "A" (references = </B>) {}\ndef Xform "B" (references = </A>) {}`, /comes back to it/],
    [`${HEAD}def Xform "A" (references = </A/C>) { def Xform "C" (references = </A>) {} }`, /comes back to it/],
    [`${HEAD}def Xform "A" (references = </Gone>) {}`, /\/Gone, which is not there/],
    [`${HEAD}def Xform "A" (payload = @../../secret.usda@</A>) {}`, /\/A refers to “..\/..\/secret.usda”, which lies outside/],
    [`${HEAD}( subLayers = [@/etc/a.usda@] )`, /The file refers to “\/etc\/a.usda”/],
    [`${HEAD}( metersPerUnit = 0 )`, /metersPerUnit/],
    [`${HEAD}${'def Xform "A" {'.repeat(80)}`, /nested more than 64/],
  ])('%# is refused by name', (text, reason) => {
    expect(() => readUsda(text, setup)).toThrow(UsdError);
    expect(() => readUsda(text, setup)).toThrow(reason);
  });
  it('other files beside it are told, and what they hold is left', () => {
    const { left, patch } = readUsda(
      `${HEAD}( subLayers = [@./set.usda@] )\ndef Xform "A" (references = [@./rig.usda@</Rig>, </B>]) {}\ndef RectLight "B" {}`,
      setup,
    );
    expect(left.join('\n')).toMatch(/set\.usda.*\n.*rig\.usda/);
    expect(Object.keys((patch['lights'] as { items: object }).items)).toEqual(['b']);
  });
});
