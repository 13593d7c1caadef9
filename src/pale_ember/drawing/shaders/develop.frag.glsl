#version 330 core
// Linear light to what a screen shows: glow, exposure, a soft shoulder, sRGB, a grain too fine to see against bands.
uniform sampler2D scene;
uniform sampler2D glow;
uniform float glow_share;
uniform float glow_scale;
uniform float exposed;
uniform vec4 cut;  // the part of the scene that is developed: its corner, its size
uniform float swap;  // whether blue comes first
uniform float flip;  // whether the first row is the top one
uniform float clear;  // whether what is behind shows where nothing is
uniform float lies;  // whether only what differs from a picture without the effect is shown, to lie over that
uniform sampler2D without;
uniform float plain;  // whether light stays as it is, for files that hold it
in vec2 uv;
out vec4 pixel;

const float BEND = 0.7;

// Goes to 1; the first parts of the exponential's series do as well as the whole, in a third of the time.
float shoulder(float v) {
    float over = max(v - BEND, 0.0) * (0.55 / (1.0 - BEND));
    return min(v, BEND) + (1.0 - BEND) * (1.0 - 1.0 / (1.0 + over * (1.0 + over * (0.5 + over * 0.16667))));
}

// Bright light keeps its hue up to where it is white-hot. Each channel by itself would let red stand still while
// green and blue catch up; all by the brightest alone would leave bright fire red. Between the two orange goes
// through yellow to white.
vec3 developed(vec3 v) {
    float most = max(max(v.r, v.g), v.b);
    if (most <= BEND) return v;
    vec3 apart = vec3(shoulder(v.r), shoulder(v.g), shoulder(v.b));
    vec3 together = v * (shoulder(most) / most);
    return mix(together, apart, 0.6);
}

// The power of sRGB from roots, to a hundredth of a level: coefficients fitted by least squares.
vec3 to_srgb(vec3 v) {
    vec3 a = sqrt(v), b = sqrt(a), c = sqrt(b);
    vec3 bent = 0.6539492 * a + 0.6887997 * b - 0.3185484 * c - 0.0201826 * v - 0.0040495;
    return mix(12.92 * v, bent, step(0.0031308, v));
}

void main() {
    vec2 at = cut.xy + vec2(uv.x, mix(uv.y, 1.0 - uv.y, flip)) * cut.zw;
    // Pixel for pixel: nothing is read between them.
    vec4 seen = texelFetch(scene, ivec2(at * vec2(textureSize(scene, 0))), 0);
    // Where nothing stands behind, glow comes to nothing at the borders, which would cut it off.
    vec2 inward = min(at, 1.0 - at);
    float share = glow_share * (clear > 0.5 ? smoothstep(0.0, 0.15, min(inward.x, inward.y)) : 1.0);
    vec3 light = mix(seen.rgb, texture(glow, at).rgb * glow_scale, share) * exposed;
    if (plain > 0.5) {
        pixel = vec4(light, mix(1.0, clamp(seen.a, 0.0, 1.0), clear));
        return;
    }
    vec3 shown = to_srgb(clamp(developed(max(light, 0.0)), 0.0, 1.0));
    uvec2 p = uvec2(gl_FragCoord.xy);
    uint h = p.x * 0x8DA6B343u ^ p.y * 0xD8163841u;
    h = (h ^ (h >> 15)) * 0x7FEB352Du;
    float grain = float((h ^ (h >> 16)) & 255u) / 255.0 - 0.5;
    vec3 found = shown + (clear > 0.5 ? 0.0 : grain / 255.0);
    if (lies > 0.5) {
        found = mix(found, found.bgr, swap);
        vec3 apart = abs(found - texelFetch(without, ivec2(gl_FragCoord.xy), 0).rgb);
        float there = smoothstep(1.5, 5.0, max(max(apart.r, apart.g), apart.b) * 255.0);
        pixel = vec4(found * there, there);
        return;
    }
    pixel = vec4(mix(found, found.bgr, swap), mix(1.0, clamp(seen.a, 0.0, 1.0), clear));
}
