#version 330 core
// One point of a band's edge: where it is and what it shows has been found already.
uniform mat4 whole;  // world to clip space
uniform vec2 depths;  // from a distance to a depth
uniform float nudge;
uniform float clock;  // s
in vec3 in_place;
in vec2 in_spot;
in vec4 in_light;
#ifndef TEXTURED
in vec2 in_ends;
out vec2 ends;  // how far its tail and its head are, in halves of the width
#endif
//: columns
#ifdef ROW
in float in_number;
uniform float row;  // how many pictures stand side by side, one for each piece
#endif
out vec2 spot;
out vec4 light;
#ifdef TEXTURED
uniform float frames;
flat out vec4 sheet;  // this frame, the next, how far between, whether it is mirrored
#endif
#if defined(ERODES) || defined(BENDS) || defined(SHIMMERS)
in float in_lot;
out vec3 noise_place;  // its place on noises, seconds
#endif
#define EACH
//: each out
#ifdef LIT
in vec3 in_side;
in vec3 in_ahead;
uniform vec3 eye;
out vec3 side_x;
out vec3 side_y;
out vec3 seen_from;
#endif

void main() {
#ifdef TEXTURED
#ifdef HOLDS
    float at = clamp(in_frame, 0.0, frames - 1.0), first = min(floor(at), frames - 1.0);
    sheet = vec4(first, min(first + 1.0, frames - 1.0), at - first, 1.0);
#else
    float at = mod(in_frame, frames), first = min(floor(at), frames - 1.0);
    sheet = vec4(first, mod(first + 1.0, frames), at - first, 1.0);
#endif
#endif
#if defined(ERODES) || defined(BENDS) || defined(SHIMMERS)
    noise_place = vec3(fract(in_lot * vec2(97.13, 41.77)), clock);
#endif
    //: pass on
#ifdef LIT
    side_x = in_side;
    side_y = in_ahead;
    seen_from = normalize(in_place - eye);
#endif
    spot = in_spot;
#ifndef TEXTURED
    ends = in_ends;
#endif
    light = in_light;
    gl_Position = whole * vec4(in_place, 1.0);
#ifdef NUDGED
    float nearer = max(gl_Position.w - nudge, 1e-4);
    gl_Position.z = (depths.y / nearer - depths.x) * gl_Position.w;
#endif
#ifdef ROW
    gl_Position.x = gl_Position.x / row + ((2.0 * in_number + 1.0) / row - 1.0) * gl_Position.w;
#endif
}
