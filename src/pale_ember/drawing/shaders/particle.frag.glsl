#version 330 core
// A picture or a soft dot, in premultiplied light: what adds has no cover.
uniform float cover;
out vec4 pixel;
// What is the same all over a particle goes from point to point along a band.
#if defined(BAND)
#define EACH
#else
#define EACH flat
#endif
// A picture's own border is as soft as a pixel; what is cut out has none.
#if defined(TEXTURED) && !defined(BAND) && !defined(BODY) && !defined(CUTOUT)
#define EDGED
#endif
#ifdef POINTS
flat in vec4 turn;
flat in vec4 light;
#else
in vec2 spot;
EACH in vec4 light;
#endif
#if defined(BAND) && !defined(TEXTURED)
in vec2 ends;
#endif
#ifdef TEXTURED
uniform sampler2DArray picture;
flat in vec4 sheet;
#ifdef CHANNEL
uniform vec4 channel;
#endif
#ifdef MOTION
uniform sampler2DArray moves;
#endif
#endif
#if defined(ERODES) || defined(BENDS) || defined(SHIMMERS)
EACH in vec3 noise_place;
#endif
#ifdef ERODES
uniform sampler2DArray erode_noise;
uniform vec4 erode_channel;
uniform float erode_painted;  // whether it is a picture of colours
uniform vec4 erode_lay;  // tiles, pan
uniform vec2 erode_edge;  // softness, how much from the rim inward
uniform vec3 rim;
#endif
#ifdef BENDS
uniform sampler2DArray bend_noise;
uniform vec4 bend_channel;
uniform float bend_painted;
uniform vec4 bend_lay;
#endif
#ifdef SHIMMERS
uniform sampler2DArray shimmer_noise;
uniform vec4 shimmer_channel;
uniform float shimmer_painted;
uniform vec4 shimmer_lay;
#endif
//: each in
#ifdef BODY
#if defined(LIT) || defined(SHELL)
in vec3 across;  // the surface
in vec3 seen_from;
#endif
#ifdef SHELL
uniform float rim_power;
uniform float core;
#endif
#endif
#ifdef TILED
uniform vec2 tiles;
uniform vec2 pan;
uniform float clock;
#endif
#ifdef LIT
#ifndef BODY
EACH in vec3 side_x;
EACH in vec3 side_y;
EACH in vec3 seen_from;
#endif
uniform float lit;
uniform float roundness;
uniform vec3 key_from;
uniform vec3 key_light;
uniform vec3 sky_light;
uniform vec3 ground_light;
#ifdef NORMALS
uniform sampler2DArray normals;
#endif
#endif
#ifdef SOFT
uniform sampler2D behind;
uniform vec2 depths;
uniform float soften;
uniform float nudge;
#endif
#ifdef CUTOUT
uniform float cutoff;
#endif
#ifdef SURFACE
uniform mat3 axes;  // the camera's right, up and back
#endif

// A mask in a picture of colours is what was painted there (IEC 61966-2-1), not how bright that is.
vec4 as_painted(vec4 t) {
    vec3 v = max(t.rgb, 0.0);
    return vec4(mix(1.055 * pow(v, vec3(1.0 / 2.4)) - 0.055, 12.92 * v, lessThanEqual(v, vec3(0.0031308))), t.a);
}

float mask_at(sampler2DArray noise, vec2 at, vec4 channel, float painted) {
    vec4 t = texture(noise, vec3(at, 0.0));
    return dot(painted > 0.5 ? as_painted(t) : t, channel);
}

#ifdef TEXTURED
// One frame at a place, premultiplied and linear, from copies smaller by ``blur``.
vec4 frame_at(vec2 at, float frame, float blur) {
    vec4 t = texture(picture, vec3(at, frame), blur);
#if defined(CHANNEL) && defined(DATA)
    return vec4(dot(t, channel));
#elif defined(CHANNEL)
    return vec4(dot(as_painted(t), channel));
#elif defined(DATA)
    return vec4(t.rgb * t.a, t.a);
#else
    return t;
#endif
}
#endif

void main() {
#ifdef POINTS
    vec2 about = vec2(gl_PointCoord.x * 2.0 - 1.0, 1.0 - gl_PointCoord.y * 2.0);
    vec2 spot = vec2(turn.x * about.x + turn.y * about.y, turn.x * about.y - turn.y * about.x) * turn.zw;
#if defined(TEXTURED) && !defined(EDGED)
    if (max(abs(spot.x), abs(spot.y)) > 1.0) discard;
#endif
#endif
#ifdef EDGED
    // The share of the pixel that lies within, as if the border were straight there: exact along either axis, and
    // wide enough between them that the sum over pixels hardly depends on where they lie.
    vec2 slope = fwidth(spot);
    vec2 within = clamp((1.0 - abs(spot)) / slope + 0.5, 0.0, 1.0);
    float edge = within.x * within.y;
#ifdef OVERDRAW
    // Elsewhere what is nothing is drawn as nothing: that is quicker than to leave it out.
    if (edge <= 0.0) discard;
#endif
    // A few pixels that each read one point of a fine pattern would see too much of it or too little.
    float blur = min(8.0 * max(slope.x, slope.y), 0.75);
#ifdef STREAK
    // Along a streak copies are as fine as across it they are coarse, and read in a few places.
    blur *= 2.0;
#endif
#elif defined(TEXTURED)
    float blur = 0.0;
#endif
#if defined(POINTS) && defined(TEXTURED)
    spot.x *= sheet.w;
#endif
#ifdef TEXTURED
#ifdef TILED
    vec2 laid = (spot * 0.5 + 0.5) * tiles - fract(pan * clock);
    vec2 at = vec2(laid.x, 1.0 - laid.y);
#else
    vec2 at = vec2(spot.x, -spot.y) * 0.5 + 0.5;
#endif
#else
    vec2 moved = spot;
#endif
#ifdef BENDS
    vec2 bend_at = (spot * 0.5 + 0.5) * bend_lay.xy + noise_place.xy - bend_lay.zw * noise_place.z;
    vec2 bent = vec2(mask_at(bend_noise, bend_at, bend_channel, bend_painted),
                     mask_at(bend_noise, bend_at + vec2(0.37, 0.59), bend_channel, bend_painted)) * 2.0 - 1.0;
#ifdef TEXTURED
    at += bent * its_bend;
#if defined(BODY) || defined(TILED)
#elif defined(BAND)
    if (at.x != clamp(at.x, 0.0, 1.0)) discard;
#elif defined(EDGED)
    // Where it isn't bent, its border stays soft.
    if (at != clamp(at, -slope.x, 1.0 + slope.x)) discard;
#else
    if (at != clamp(at, 0.0, 1.0)) discard;
#endif
#else
    moved += 2.0 * bent * its_bend;
#endif
#endif
#ifdef TEXTURED
#ifdef FRAME_BLEND
#ifdef MOTION
    vec2 from = texture(moves, vec3(at, sheet.x)).xy * vec2(1.0, -1.0) * sheet.z;
    vec2 to = texture(moves, vec3(at, sheet.y)).xy * vec2(1.0, -1.0) * (1.0 - sheet.z);
    vec4 t = mix(frame_at(at - from, sheet.x, blur), frame_at(at + to, sheet.y, blur), sheet.z);
#else
    vec4 t = mix(frame_at(at, sheet.x, blur), frame_at(at, sheet.y, blur), sheet.z);
#endif
#else
    vec4 t = frame_at(at, sheet.x, blur);
#endif
#elif defined(BODY)
    vec4 t = vec4(1.0);
#else
#ifdef BAND
    // Its ends are round.
    float beyond = max(1.0 - min(ends.x, ends.y), 0.0);
    float away = moved.x * moved.x + beyond * beyond;
#else
    float away = dot(moved, moved);
#endif
#ifdef OVERDRAW
    if (away >= 1.0) discard;
#endif
    float soft = max(1.0 - away, 0.0);
    vec4 t = vec4(soft * soft);
#endif
#ifdef ERODES
    vec2 erode_at = (spot * 0.5 + 0.5) * erode_lay.xy + noise_place.yx - erode_lay.zw * noise_place.z;
    float grain = mask_at(erode_noise, erode_at, erode_channel, erode_painted);
    grain = mix(grain, t.a, erode_edge.y);
    float level = its_erode * (1.0 + erode_edge.x) - erode_edge.x;
    float kept = its_erode <= 0.0 ? 1.0 : smoothstep(level, level + erode_edge.x, grain);
#ifdef RIM
    vec3 burning = its_erode <= 0.0 ? vec3(0.0)
        : rim * t.a * kept * (1.0 - smoothstep(level + 0.6 * erode_edge.x, level + 2.0 * erode_edge.x, grain));
#endif
    t *= kept;
#endif
#ifdef SHIMMERS
    vec2 shimmer_at = (spot * 0.5 + 0.5) * shimmer_lay.xy + noise_place.xy - shimmer_lay.zw * noise_place.z;
    t.rgb *= max(1.0 + its_shimmer * (2.0 * mask_at(shimmer_noise, shimmer_at, shimmer_channel, shimmer_painted) - 1.0), 0.0);
#endif
    vec3 shown = t.rgb * light.rgb;
#ifdef BODY
#if defined(LIT) || defined(SHELL)
    // Whichever side of a face is seen, it is that one which is lit.
    vec3 sight = normalize(seen_from), normal = normalize(across);
    normal *= dot(normal, sight) > 0.0 ? -1.0 : 1.0;
#endif
#ifdef LIT
#ifdef NORMALS
    // The ways of the picture over the surface, from how both change from pixel to pixel (C. Schüler, 2006).
    vec3 dx = dFdx(seen_from), dy = dFdy(seen_from), ux = cross(dy, normal), uy = cross(normal, dx);
    vec2 sx = dFdx(spot), sy = dFdy(spot);
    vec3 along_x = ux * sx.x + uy * sy.x, along_y = ux * sx.y + uy * sy.y;
    float size = inversesqrt(max(max(dot(along_x, along_x), dot(along_y, along_y)), 1e-30));
    vec3 bulge = texture(normals, vec3(at, sheet.x)).xyz * 2.0 - 1.0;
    normal = normalize(along_x * (size * bulge.x) + along_y * (size * bulge.y) + normal * bulge.z);
#endif
    float turned_to = dot(normal, key_from) * 0.5 + 0.5;
    vec3 lights = key_light * (turned_to * turned_to) + mix(ground_light, sky_light, normal.y * 0.5 + 0.5);
    shown *= mix(vec3(1.0), lights, lit);
#ifdef SURFACE
    shown = (vec3(dot(normal, axes[0]), dot(normal, axes[1]), dot(normal, axes[2])) * 0.5 + 0.5) * t.a;
#endif
#endif
#ifdef SHELL
    float edge = pow(clamp(1.0 + dot(normal, sight), 0.0, 1.0), rim_power);
    float solid = mix(core, 1.0, edge);
    shown = shown * solid + light.rgb * (t.a * edge * its_rim_light);
    t.a *= solid;
#endif
#elif defined(LIT)
#ifdef NORMALS
    vec3 bulge = texture(normals, vec3(at, sheet.x)).xyz * 2.0 - 1.0;
#else
#ifdef BAND
    vec2 over = vec2(spot.x * roundness, 0.0);
#else
    vec2 over = spot * roundness;
#endif
    vec3 bulge = vec3(over, sqrt(max(1.0 - dot(over, over), 0.04)));
#endif
    vec3 outward = cross(side_x, side_y);
    outward *= dot(outward, seen_from) > 0.0 ? -1.0 : 1.0;
    vec3 normal = normalize(side_x * bulge.x + side_y * bulge.y + outward * bulge.z);
    float turned_to = dot(normal, key_from) * 0.5 + 0.5;
    float thick = clamp(t.a * light.a, 0.0, 1.0);
    // Light goes round the soft edge of smoke, and through it where it is thin and stands before the light.
    float through = pow(max(dot(seen_from, key_from), 0.0), 4.0) * (1.0 - thick) * 1.6;
    vec3 lights = key_light * (turned_to * turned_to + through) + mix(ground_light, sky_light, normal.y * 0.5 + 0.5);
    shown *= mix(vec3(1.0), lights, lit);
#ifdef SURFACE
    shown = (vec3(dot(normal, axes[0]), dot(normal, axes[1]), dot(normal, axes[2])) * 0.5 + 0.5) * t.a;
#endif
#endif
#ifdef RIM
    shown += burning * light.a;
#endif
    float opaque = light.a;
#ifdef EDGED
    opaque *= edge;
#endif
#ifdef SOFT
    float scene = depths.y / (texelFetch(behind, ivec2(gl_FragCoord.xy), 0).r * 2.0 - 1.0 + depths.x);
    opaque *= clamp((scene - 1.0 / gl_FragCoord.w + max(nudge, 0.0)) / soften, 0.0, 1.0);
#endif
#if defined(OVERDRAW)
    pixel = vec4(1.0);
#elif defined(CUTOUT)
#if !defined(BODY) || defined(TEXTURED) || defined(ERODES) || defined(SHELL)
    if (t.a * opaque < cutoff) discard;
#endif
    pixel = vec4(shown / max(t.a, 1e-4), 1.0);
#elif defined(MULTIPLY)
    vec3 left = vec3(1.0 - t.a * opaque) + shown * opaque;
    pixel = vec4(left, t.a * opaque * (1.0 - clamp(dot(shown, vec3(0.3333)) / max(t.a, 1e-4), 0.0, 1.0)));
#elif defined(MIXED)
    pixel = vec4(shown * opaque, t.a * opaque * (1.0 - its_mix));
#else
    pixel = vec4(shown * opaque, t.a * opaque * cover);
#endif
}
