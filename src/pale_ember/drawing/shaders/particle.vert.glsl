#version 330 core
// One particle: a polygon that faces as its layer asks, or, with POINTS, a point that holds it. What all particles of
// a layer share is a uniform in place of an attribute.
uniform mat4 whole;  // world to clip space
uniform vec2 lens;  // how far a metre across, and one up, goes in clip space
uniform vec2 depths;  // from a distance to a depth
uniform mat3 axes;  // the camera's right, up and back
uniform float anchor;
uniform float nudge;
#ifdef ROW
uniform float row;  // how many pictures stand side by side, one for each particle
#endif
in vec3 in_place;
in vec2 in_size;
#ifdef ANGLE
in float in_angle;
#else
uniform vec2 turned;  // cosine and sine
#endif
#ifdef COLOR
in vec3 in_color;
#else
uniform vec3 in_color;
#endif
#ifdef OPACITY
in float in_opacity;
#else
uniform float in_opacity;
#endif
#ifdef INTENSITY
in float in_intensity;
#else
uniform float in_intensity;
#endif
#ifdef WAY
in vec3 in_way;
#else
uniform vec3 in_way;
#endif
#ifdef FRAME
in float in_frame;
#else
uniform float in_frame;
#endif
#ifdef MIX
in float in_mix;
#else
uniform float in_mix;
#endif
#ifdef ERODE
in float in_erode;
#else
uniform float in_erode;
#endif
#ifdef BEND
in float in_bend;
#else
uniform float in_bend;
#endif
#ifdef SHIMMER
in float in_shimmer;
#else
uniform float in_shimmer;
#endif
#ifdef DICE
in vec2 in_dice;
#else
uniform vec2 in_dice;
#endif
#ifdef LIVED
in float in_lived;
#else
uniform float in_lived;
#endif

#ifdef TEXTURED
uniform sampler2D corners;
uniform float frames;
uniform float mirror;
flat out vec4 sheet;  // this frame, the next, how far between, whether it is mirrored
#endif
#ifdef STREAK
uniform vec2 streak_ends;
#endif
#if defined(ERODES) || defined(BENDS) || defined(SHIMMERS)
flat out vec3 noised;  // eroded, bent, shimmering
flat out vec3 noise_place;  // its place on noises, seconds lived
#endif
#ifdef MIXED
flat out float added;
#endif
#ifdef LIT
flat out vec3 side_x;
flat out vec3 side_y;
flat out vec3 seen_from;
uniform vec3 eye;
#endif
uniform float height;  // of the picture, pixels
#ifdef POINTS
flat out vec4 turn;
flat out vec4 light;
#else
out vec2 spot;
flat out vec4 light;
#endif

// What comes very near the eye fades instead of filling the picture.
float near_fade(float depth) {
    float reach = max(in_size.x, in_size.y);
    return smoothstep(0.0, 1.0, depth / max(0.25 * reach, 1e-4));
}

void main() {
#ifdef ANGLE
    float c = cos(in_angle), s = sin(in_angle);
#else
    float c = turned.x, s = turned.y;
#endif
#ifdef TEXTURED
    float at = in_frame;
#ifdef HOLDS
    at = clamp(at, 0.0, frames - 1.0);
#else
    at = mod(at, frames);
#endif
    float first = min(floor(at), frames - 1.0);
#ifdef HOLDS
    sheet = vec4(first, min(first + 1.0, frames - 1.0), at - first, in_dice.y < mirror ? -1.0 : 1.0);
#else
    sheet = vec4(first, mod(first + 1.0, frames), at - first, in_dice.y < mirror ? -1.0 : 1.0);
#endif
#endif
#if defined(ERODES) || defined(BENDS) || defined(SHIMMERS)
    noised = vec3(in_erode, in_bend, in_shimmer);
    noise_place = vec3(fract(in_dice.x * vec2(97.13, 41.77)), in_lived);
#endif
#ifdef MIXED
    added = in_mix;
#endif
    // In clip space the last part is the distance from the eye's plane.
    gl_Position = whole * vec4(in_place, 1.0);
    float depth = gl_Position.w;
#ifdef POINTS
    float reach = max(in_size.x, in_size.y);
    float wide = reach * lens.y * height * 0.5 / depth;
    gl_PointSize = max(wide, 1.0);
    // What is smaller than a pixel gives its pixel as much less light.
    float share = min(wide, 1.0);
    turn = vec4(c, s, vec2(reach) / max(in_size, vec2(1e-9)));
    light = vec4(in_color * in_intensity, in_opacity * near_fade(depth) * share * share);
#ifdef LIT
    side_x = c * axes[0] + s * axes[1];
    side_y = c * axes[1] - s * axes[0];
#endif
#else
#ifdef TEXTURED
    vec2 corner = texelFetch(corners, ivec2(gl_VertexID, int(sheet.x)), 0).xy;
#ifdef BENDS
    corner = clamp(corner + sign(corner) * 2.0 * abs(in_bend), -1.0, 1.0);
#endif
    spot = corner;
    corner.x *= sheet.w;
#else
    vec2 corner = vec2(float(gl_VertexID & 1), float(gl_VertexID >> 1)) * 2.0 - 1.0;
    spot = corner;
#endif
#ifdef STREAK
    float span = length(in_way);
    float wanted = clamp(span, streak_ends.x, streak_ends.y);
#endif
    vec2 size = in_size;
    float thin = 1.0;
#ifndef CUTOUT
    // What is thinner than two pixels is drawn as wide, with as much less light: else it would come and go
    // with the middles of pixels that it happens to cover.
    if (min(in_size.x, in_size.y) > 0.0 && depth > 0.0) {
        size = max(in_size, vec2(4.0 * depth / (lens.y * height)));
        thin = in_size.x / size.x;
#ifdef STREAK
        thin *= (wanted + in_size.y) / (wanted + size.y);
#else
        thin *= in_size.y / size.y;
#endif
    }
#endif
    vec2 side = vec2(corner.x * 0.5, corner.y * 0.5 - anchor) * size;
#if defined(STREAK)
    vec3 way = span > 1e-9 ? in_way * (wanted / span) : axes[1] * wanted;
    vec4 tail = whole * vec4(in_place - way, 1.0);
    float nearest = 0.05 * gl_Position.w;
    if (tail.w < nearest) tail = mix(gl_Position, tail, (gl_Position.w - nearest) / (gl_Position.w - tail.w));
    vec2 seen = (gl_Position.xy / gl_Position.w - tail.xy / tail.w) / lens;
    float far = length(seen);
    vec2 up = far > 1e-7 ? seen / far : vec2(0.0, 1.0);
    vec2 right = vec2(up.y, -up.x);
    vec4 middle = mix(tail, gl_Position, 0.5);
    gl_Position = mix(tail, gl_Position, corner.y * 0.5 + 0.5);
    gl_Position.xy += (right * side.x + up * side.y) * lens;
    // The whole of it is turned about its middle.
    vec2 off = (gl_Position.xy / gl_Position.w - middle.xy / middle.w) / lens;
    off = vec2(c * off.x - s * off.y, s * off.x + c * off.y);
    gl_Position.xy = (middle.xy / middle.w + off * lens) * gl_Position.w;
    up = vec2(c * up.x - s * up.y, s * up.x + c * up.y);
    right = vec2(up.y, -up.x);
#ifdef LIT
    side_x = right.x * axes[0] + right.y * axes[1];
    side_y = up.x * axes[0] + up.y * axes[1];
#endif
#elif defined(UPRIGHT) || defined(FLAT) || defined(TRAVEL)
#if defined(UPRIGHT)
    vec3 up = vec3(0.0, 1.0, 0.0);
    vec3 right = vec3(axes[2].z, 0.0, -axes[2].x);
    right = dot(right, right) > 1e-8 ? normalize(right) : axes[0];
#elif defined(FLAT)
    vec3 right = vec3(1.0, 0.0, 0.0), up = vec3(0.0, 0.0, -1.0);
#else
    float span = length(in_way);
    vec3 up = span > 1e-9 ? in_way / span : vec3(0.0, 1.0, 0.0);
    vec3 right = vec3(-up.z, 0.0, up.x);
    right = dot(right, right) > 1e-8 ? normalize(right) : vec3(1.0, 0.0, 0.0);
#endif
    vec3 x = c * right + s * up, y = c * up - s * right;
    gl_Position = whole * vec4(in_place + x * side.x + y * side.y, 1.0);
#ifdef LIT
    side_x = x;
    side_y = y;
#endif
#else
    gl_Position.xy += vec2(c * side.x - s * side.y, s * side.x + c * side.y) * lens;
#ifdef LIT
    side_x = c * axes[0] + s * axes[1];
    side_y = c * axes[1] - s * axes[0];
#endif
#endif
    light = vec4(in_color * in_intensity, in_opacity * near_fade(depth) * thin);
#endif
#ifdef LIT
    seen_from = normalize(in_place - eye);
#ifdef TEXTURED
    side_x *= sheet.w;
#endif
#endif
#ifdef NUDGED
    // Only its depth comes nearer; its place on the picture and its size stay.
    float nearer = max(gl_Position.w - nudge, 1e-4);
    gl_Position.z = (depths.y / nearer - depths.x) * gl_Position.w;
#endif
#ifdef ROW
    // Seen as in the middle of its own picture, and then put into its place in the row.
#ifdef POINTS
    float number = float(gl_VertexID);
#else
    float number = float(gl_InstanceID);
#endif
    gl_Position.x = gl_Position.x / row + ((2.0 * number + 1.0) / row - 1.0) * gl_Position.w;
#endif
}
