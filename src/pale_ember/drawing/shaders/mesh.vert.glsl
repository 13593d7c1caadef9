#version 330 core
// One corner of a mesh that stands in the place of a particle.
uniform mat4 whole;  // world to clip space
uniform vec2 depths;  // from a distance to a depth
uniform float nudge;
uniform float clock;  // s
uniform float cutoff;
#ifdef ROW
uniform float row;  // how many pictures stand side by side, one for each particle
uniform float first;  // the place of the first one that is drawn
#endif
in vec4 in_point;  // and how far across the picture
in vec4 in_normal;  // and how far up
//: columns
out vec2 spot;
flat out vec4 light;
#ifdef TEXTURED
uniform float frames;
uniform float mirror;
flat out vec4 sheet;  // this frame, the next, how far between, whether it is mirrored
#endif
#if defined(ERODES) || defined(BENDS) || defined(SHIMMERS)
flat out vec3 noise_place;  // its place on noises, seconds lived
#endif
#define EACH flat
//: each out
#if defined(LIT) || defined(SHELL)
out vec3 across;
out vec3 seen_from;
uniform vec3 eye;
#endif

vec3 turned(vec3 v) {
    return v + 2.0 * cross(in_turn.xyz, cross(in_turn.xyz, v) + in_turn.w * v);
}

void main() {
#ifdef TEXTURED
#ifdef HOLDS
    float at = clamp(in_frame, 0.0, frames - 1.0), now = min(floor(at), frames - 1.0);
    sheet = vec4(now, min(now + 1.0, frames - 1.0), at - now, in_dice.y < mirror ? -1.0 : 1.0);
#else
    float at = mod(in_frame, frames), now = min(floor(at), frames - 1.0);
    sheet = vec4(now, mod(now + 1.0, frames), at - now, in_dice.y < mirror ? -1.0 : 1.0);
#endif
#endif
#if defined(ERODES) || defined(BENDS) || defined(SHIMMERS)
    noise_place = vec3(fract(in_dice.x * vec2(97.13, 41.77)), in_lived);
#endif
    //: pass on
    vec3 stretched = vec3(in_size_x, in_size_y, in_size_x) * in_stretch;
    vec3 place = in_place + turned(in_point.xyz * stretched);
#if defined(LIT) || defined(SHELL)
    // What a body is stretched along, its normals lean away from.
    across = turned(in_normal.xyz * stretched.yzx * stretched.zxy);
    seen_from = place - eye;
#endif
#if defined(TEXTURED) || defined(ERODES) || defined(BENDS) || defined(SHIMMERS)
    spot = vec2(in_point.w, in_normal.w) * 2.0 - 1.0;
#ifdef TEXTURED
    spot.x *= sheet.w;
#endif
#else
    spot = vec2(0.0);
#endif
    gl_Position = whole * vec4(place, 1.0);
    float depth = (whole * vec4(in_place, 1.0)).w;
    float reach = max(stretched.x, max(stretched.y, stretched.z));
#ifdef CUTOUT
    light = vec4(in_color * in_intensity, in_opacity);
#else
    light = vec4(in_color * in_intensity, in_opacity * smoothstep(0.0, 1.0, depth / max(0.25 * reach, 1e-4)));
#endif
#if defined(CUTOUT) && !defined(TEXTURED) && !defined(ERODES) && !defined(SHELL)
    // All of it is there or not; so what is hidden need not be shaded.
    if (in_opacity < cutoff) gl_Position = vec4(0.0, 0.0, 2.0, 1.0);
#endif
#ifdef NUDGED
    float nearer = max(gl_Position.w - nudge, 1e-4);
    gl_Position.z = (depths.y / nearer - depths.x) * gl_Position.w;
#endif
#ifdef ROW
    gl_Position.x = gl_Position.x / row + ((2.0 * (float(gl_InstanceID) + first) + 1.0) / row - 1.0) * gl_Position.w;
#endif
}
