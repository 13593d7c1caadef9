"""What a bundle's page says of all effects alike, and how it looks."""

STYLE = """
:root { color-scheme: dark; }
body { margin: 0; background: #1d1b19; color: #cfcac4; font: 14px/1.5 system-ui, sans-serif; }
main { max-width: 1180px; margin: 0 auto; padding: 28px 24px 80px; }
h1 { color: #f4efe9; font-size: 26px; font-weight: 600; margin: 0 0 6px; }
h2 { color: #f2b48c; font-size: 17px; font-weight: 600; margin: 34px 0 8px; }
h3 { color: #f4efe9; font-size: 15px; font-weight: 600; margin: 22px 0 6px; }
small { color: #98918a; font-weight: 400; font-size: 12px; }
code { font: 12.5px/1.4 ui-monospace, monospace; color: #dcd6cf; }
a { color: #f2b48c; }
.wide { overflow-x: auto; }
table { border-collapse: collapse; font-variant-numeric: tabular-nums; }
th, td { text-align: left; vertical-align: top; padding: 4px 14px 4px 0; border-bottom: 1px solid #35312d; }
th { color: #a59e96; font-weight: 500; white-space: nowrap; }
li { margin: 2px 0; }
"""

CONVENTIONS = """
<ul>
<li>Metres, seconds, degrees. Y is up, the axes are right-handed as in glTF; a layer’s own axis is its
+Y.</li>
<li>Rotations turn about X, then Y, then Z, each about the fixed axes of the world.</li>
<li>Colours are sRGB in the file and linear in every calculation. Opacity is a value of its own. Light may be
above 1 (<code>intensity</code>).</li>
<li>A particle’s age goes from 0 at its birth to 1 at its death.</li>
<li>Every random draw is a hash of the effect’s seed, the layer’s id, the particle’s number and the field’s
path (<code>runtime/</code> has it in a few lines):
so one change never moves anything else.</li>
<li><code>add</code> covers nothing: its alpha is 0 after drawing. <code>mix</code> goes from alpha (0) to
add (1).</li>
</ul>
"""

FORMS = """
<h3>Values</h3>
<p>A field that an artist shapes is a number, or one of these; colours alike, with <code>gradient</code> in
place of <code>curve</code>:</p>
<ul>
<li><code>1.5</code>: always that.</li>
<li><code>{"spread": [low, high]}</code>: drawn once for each particle, evenly between both.</li>
<li><code>{"curve": [keys], "along": "life"}</code>: read off a curve. <code>along</code> is
<code>life</code> (its age), <code>clock</code>
(0…1 of the layer’s window, at its birth or now) or <code>speed</code> (0…1 of <code>speed_range</code>).</li>
<li><code>{"band": [[keys], [keys]], "along": …}</code>: between two curves, at a place drawn once for each
particle.</li>
<li><code>{"one_of": [colours]}</code>: of a colour, one of several, drawn once for each particle: of n the
one of number
floor(draw × n), counted from 0.</li>
</ul>
<p>A key is <code>[x, y]</code>, eased smoothly (a monotone cubic that never passes its neighbours), or an
object with <code>ease</code>:
<code>smooth</code>, <code>linear</code>, <code>hold</code>, <code>free</code> (with slopes <code>in</code>
and <code>out</code>). Two keys at one x are a step.</p>
"""

STEP = """
<h3>One step of the simulation</h3>
<p>Steps have the length 1 / <code>step_rate</code>. In order: place and path of each emitter; births, each
at its exact moment inside the step;
forces; velocity; motion; contact; deaths; follow-ups of what happened; appearance.</p>
<ul>
<li>Constant acceleration is integrated exactly: x += v·dt + ½·a·dt².</li>
<li>Drag is exact: velocity goes towards the wind by e^(−drag·dt).</li>
<li><code>size</code> × <code>grow</code> is the height, × <code>aspect</code> × <code>widen</code> the
width. Colour is <code>tint</code> × <code>color</code> × <code>intensity</code>.</li>
</ul>
"""
