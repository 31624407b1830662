import { blackBodyColour } from '../../engine'
import { colour, number, sampleCurve } from '../../shot'
import { defineFinish, say } from '../define'
import { COVER, LUMA, SRGB, toneCurve } from '../finishing'
import { isWhite } from './centre'
import { TURN } from './turn'

const POINTS = 33
/** White of a screen, kelvin. */
const WHITE_K = 6500
const PIECES = {
  gain: 'c.rgb *= gain;',
  lift: 'c.rgb += lift * mix(1.0, coverOf(c), transparent);',
  ranges: `{
    float s = clamp(screenOf(luma(c.rgb)), 0.0, 1.0);
    float dark = 1.0 - smoothstep(0.0, 0.55, s), light = smoothstep(0.45, 1.0, s);
    c.rgb *= darks * dark + brights * light + middles * max(0.0, 1.0 - dark - light);
  }`,
  contrast: 'c.rgb = 0.18 * pow(max(c.rgb, 0.0) / 0.18, vec3(contrast));',
  hue: 'c.rgb = max(turned(c.rgb, hue), 0.0);',
  saturation: 'c.rgb = max(mix(vec3(luma(c.rgb)), c.rgb, saturation), 0.0);',
  curves: `{
    vec3 s = toScreen(max(c.rgb, 0.0));
    vec3 beyond = max(s - 1.0, 0.0);
    s = min(s, 1.0);
    for (int i = 0; i < 3; i++) {
      float at = s[i] * float(${POINTS - 1});
      int k = int(min(floor(at), float(${POINTS - 2})));
      int own = i * ${POINTS};
      s[i] = mix(each[own + k], each[own + k + 1], at - float(k));
    }
    c.rgb = toLight(s + beyond);
  }`,
}
const percent = (label: string, help: string, most = 400) =>
  number({ label, unit: '%', default: 100, min: 0, max: most, soft: [0, 200], animated: true, help })
const tinted = (label: string, help: string) => colour({ label, default: [1, 1, 1], animated: true, help })

export const grade = defineFinish({
  kind: 'grade',
  title: 'Grade',
  help: 'Brightness and colour, for all and for dark, middle and bright parts apart.',
  synonyms: ['colour', 'color correction', 'contrast', 'saturation', 'temperature', 'curves', 'levels'],
  params: {
    exposure: number({
      label: 'Exposure',
      unit: '',
      default: 0,
      min: -10,
      max: 10,
      soft: [-3, 3],
      animated: true,
      help: 'Stops: one more is twice as bright.',
    }),
    temperature: number({
      label: 'White',
      unit: 'K',
      default: WHITE_K,
      min: 1500,
      max: 40000,
      soft: [3000, 12000],
      animated: true,
      help: 'The colour of light that comes out as white: above 6500 K the picture turns warmer, below it cooler.',
    }),
    contrast: percent('Contrast', 'Around middle grey.'),
    saturation: percent('Saturation', '0 % is grey.'),
    hue: number({ label: 'Hue', unit: '°', default: 0, soft: [-180, 180], animated: true, help: 'Turns all colours.' }),
    lift: number({
      label: 'Lift',
      unit: '%',
      default: 0,
      min: -20,
      max: 50,
      soft: [-5, 10],
      animated: true,
      help: 'Light that is added everywhere: black becomes grey. With a clear background, only where something is.',
    }),
    darks: percent('Darks', 'Brightness of dark parts.'),
    darkTint: tinted('Dark tint', 'Multiplies the colour of dark parts.'),
    middles: percent('Middles', 'Brightness of middle tones.'),
    middleTint: tinted('Middle tint', 'Multiplies the colour of middle tones.'),
    brights: percent('Brights', 'Brightness of bright parts.'),
    brightTint: tinted('Bright tint', 'Multiplies the colour of bright parts.'),
    all: toneCurve('All', 'What all channels become, from dark to white as a screen shows it.'),
    red: toneCurve('Red', 'What red becomes.'),
    green: toneCurve('Green', 'What green becomes.'),
    blue: toneCurve('Blue', 'What blue becomes.'),
  },
  passes: (p, { t }) => {
    const share = (name: 'contrast' | 'saturation' | 'lift' | 'darks' | 'middles' | 'brights') => p.number(name, t) / 100
    // Light of the asked temperature becomes white, as bright as before.
    const asked = p.number('temperature', t)
    const from = blackBodyColour(asked)
    const balance = blackBodyColour(WHITE_K).map((w, i) => (asked === WHITE_K ? 1 : w / Math.max(0.02, from[i])))
    const even = 0.2126 * balance[0] + 0.7152 * balance[1] + 0.0722 * balance[2]
    const gain = balance.map((b) => (b / even) * 2 ** p.number('exposure', t))
    const ranges = {
      darks: p.colour('darkTint', t).map((c) => c * share('darks')),
      middles: p.colour('middleTint', t).map((c) => c * share('middles')),
      brights: p.colour('brightTint', t).map((c) => c * share('brights')),
    }
    const lines = (['red', 'green', 'blue'] as const).map((name) =>
      Array.from({ length: POINTS }, (_, i) => sampleCurve(p.curve('all'), sampleCurve(p.curve(name), i / (POINTS - 1)))),
    )
    const isStraight = lines.every((l) => l.every((v, i) => Math.abs(v - i / (POINTS - 1)) < 1e-6))
    const wanted: Partial<Record<keyof typeof PIECES, Record<string, number | readonly number[]>>> = {}
    if (!isWhite(gain as [number, number, number])) wanted.gain = { gain }
    if (share('lift')) wanted.lift = { lift: share('lift') }
    if (!Object.values(ranges).every((r) => r.every((v) => v === 1))) wanted.ranges = ranges
    if (share('contrast') !== 1) wanted.contrast = { contrast: share('contrast') }
    if (p.number('hue', t) % 360) wanted.hue = { hue: (p.number('hue', t) * Math.PI) / 180 }
    if (share('saturation') !== 1) wanted.saturation = { saturation: share('saturation') }
    if (!isStraight) wanted.curves = { each: lines.flat() }
    const asks = Object.keys(wanted) as (keyof typeof PIECES)[]
    if (!asks.length) return []
    return [
      {
        point: true,
        glsl: `vec4 finish(vec4 c, vec2 uv) {\n${asks.map((k) => PIECES[k]).join('\n')}\nreturn c;\n}`,
        values: Object.assign({}, ...asks.map((k) => wanted[k])),
        uses: [LUMA, SRGB, COVER, TURN],
      },
    ]
  },
  sentence: () => say`Grade of ${'exposure'} stops, contrast ${'contrast'}, saturation ${'saturation'}, white at ${'temperature'}.`,
})
