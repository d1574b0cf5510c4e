import { parseArgs } from 'node:util';
import { CubeError, ImportError, MissingAssetError, SetupError, UsdError } from '@plinket/core';
import { importCommand } from './commands/import.ts';
import { inspectCommand } from './commands/inspect.ts';
import { probeCommand } from './commands/probe.ts';
import { readCommand } from './commands/read.ts';
import { renderCommand } from './commands/render.ts';
import { turnCommand } from './commands/turn.ts';
import { usdCommand } from './commands/usd.ts';
import { UsageError } from './usage.ts';

const HELP = `plinket: light design for characters, from the command line. No server is needed.

  plinket render SETUP.json|ID --out x.png|x.exr [--size 640x360] [--samples 64] [--seed 1]
                 [--bounces 3] [--workers N] [--share LIGHT] [--assets FOLDER] [--smooth 1] [--clamp L] [--clay]
                 [--lut FILE.cube] [--cut all|figure|shadow] [--bits 8|16] [--premultiplied] [--layers depth,normal,albedo,position,identity,noise,samples,openness] [--reach 0.5]
      Traces a setup. ID is a setup of the running or last started server's database, asked over its address.
      x.exr holds linear floats: R G B A and <light>.diffuse.R … <light>.specular.B, and the layers that are asked for.
      --cut leaves out what lies behind: a PNG with alpha of the figure, of the shadows on what catches them, or of both.
      Where something catches shadows x.exr has shadow.<light>.R, what its light leaves of itself there.
      --smooth removes noise (0…1), --clamp limits single indirect contributions and says what it took.
  plinket inspect FILE.glb|gltf|obj|ply|stl|hdr|exr|ies|png
      Of a character: metres, triangles, parts and their winding, how it stands, units that it may have been made in, its head, landmarks and warnings;
      guesses say how sure they are. Of a file for a light: what it is. As JSON.
  plinket import FILE.glb|gltf|obj|ply|stl --out x.glb [--up y|z] [--face +z|-z|+x|-x|+y|-y] [--scale 0.01] [--smooth 60] [--subdivide 0|1|2]
                 [--winding] [--parts a,b]
      Brings a character in as the page does, with materials and pictures that lie beside it; says what it is then. --up and --face are the file's
      own axes, --smooth rounds edges up to so many degrees, --winding turns parts that are inside out, --parts are those that stay.
  plinket probe SETUP.json|ID --point x,y,z --normal x,y,z [--samples 65536] [--bounces 3] [--seed 1] [--assets FOLDER]
      Irradiance in lux by light, direct and total, as JSON.
  plinket read SETUP.json|ID [--frame N] [--samples 64] [--assets FOLDER]
      What the lights do to the face of the first figure: pattern with reasons, ratio, catchlights, as JSON and in sentences.
      --frame reads another moment of its clip, 24 a second.
  plinket turn SETUP.json|ID --out FOLDER/name.png|exr [--size 640x360] [--samples 64] [--seed 1] [--bounces 3] [--smooth 1] [--workers N]
               [--turning figure|camera|"camera and lights"|dome|"figure then dome"] [--frames 300] [--fps 25] [--only 1,76,100-150] [--digits 4]
               [--lut FILE.cube] [--movie x.mp4] [--assets FOLDER]
      Every frame of the setup's turntable as name.0001.png …; what its plan says may be said otherwise. Begun again, it traces only frames that
      are missing or outdated. --movie joins them, where Debian's ffmpeg is installed.
  plinket usd SETUP.json|ID --out x.usda [--assets FOLDER]
      Lights with their links, camera, meshes and surfaces for other renderers; says what has no counterpart there.
  plinket usd SETUP.json|ID --from x.usda --out y.json
      The setup with the lights, camera and links that a .usda says.

Characters (GLB, glTF, OBJ, PLY, STL) are found by the SHA-256 of their file: in --assets, beside the setup file, in the demo and in the server's store.
`;

const commands: Record<string, (positional: string[], options: Record<string, string | undefined>) => Promise<void>> = {
  render: renderCommand,
  inspect: inspectCommand,
  import: importCommand,
  probe: probeCommand,
  read: readCommand,
  turn: turnCommand,
  usd: usdCommand,
};

const text = { type: 'string' } as const;

/** Does what a command line asks for; answers the exit code. Results go to the standard output, what is wrong to the standard error. */
export async function run(args: string[]): Promise<number> {
  try {
    const { values, positionals } = parseArgs({
      allowPositionals: true,
      // numbers like -0.3,1,2 stand after an equals sign or as the next word
      args: joinNegative(args),
      options: {
        out: text,
        size: text,
        samples: text,
        seed: text,
        bounces: text,
        workers: text,
        share: text,
        smooth: text,
        clamp: text,
        lut: text,
        layers: text,
        reach: text,
        clay: { type: 'boolean' },
        assets: text,
        point: text,
        normal: text,
        server: text,
        frame: text,
        from: text,
        cut: text,
        bits: text,
        premultiplied: { type: 'boolean' },
        turning: text,
        frames: text,
        fps: text,
        only: text,
        digits: text,
        movie: text,
        up: text,
        face: text,
        scale: text,
        subdivide: text,
        winding: { type: 'boolean' },
        parts: text,
        help: { type: 'boolean', short: 'h' },
      },
    });
    const [name, ...rest] = positionals;
    if (values.help || !name) {
      console.log(HELP);
      return name || values.help ? 0 : 2;
    }
    const command = commands[name];
    if (!command) throw new UsageError(`“${name}” is not a command; render, inspect, import, probe, read, turn and usd are.`);
    await command(rest, Object.fromEntries(Object.entries(values).map(([k, v]) => [k, v === undefined ? undefined : String(v)])));
    return 0;
  } catch (error) {
    const usage = error instanceof UsageError || (error as { code?: string }).code?.startsWith('ERR_PARSE_ARGS');
    const known =
      usage ||
      error instanceof ImportError ||
      error instanceof CubeError ||
      error instanceof UsdError ||
      error instanceof SetupError ||
      error instanceof MissingAssetError;
    console.error(known ? (error as Error).message : error);
    return usage ? 2 : 1;
  }
}

/** `--point -0.3,1,2` is one option with its value, not two options. */
function joinNegative(args: string[]): string[] {
  const out: string[] = [];
  for (const a of args) {
    const last = out[out.length - 1];
    if (/^-([\d.]|[xyz]$)/i.test(a) && last?.startsWith('--') && !last.includes('=')) out[out.length - 1] = `${last}=${a}`;
    else out.push(a);
  }
  return out;
}
