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
//: columns

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
flat out vec3 noise_place;  // its place on noises, seconds lived
#endif
#define EACH flat
//: each out
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

// Half of what a sprite is wide at least, pixels. What is thinner is drawn so, with as much less light: else it would
// come and go with the middles of pixels that it happens to cover. A dot is 0 at its rim, so it has to be wider.
#if defined(CUTOUT)
const float LEAST = 0.0;
#elif defined(TEXTURED)
const float LEAST = 1.0;
#else
const float LEAST = 1.5;
#endif
// Narrower than so many pixels the whole square is drawn: smaller copies of a texture reach beyond its polygon.
const float SQUARE = 48.0;

// What comes very near the eye fades instead of filling the picture.
float near_fade(float depth) {
    float reach = max(in_size.x, in_size.y);
    return smoothstep(0.0, 1.0, depth / max(0.25 * reach, 1e-4));
}

#ifndef POINTS
// Make a parallelogram, given by the halves of its sides in pixels, nowhere thinner than it may be, along the axes of
// its singular values; return its former share of its new area. ``more`` is what was put to it.
float widen(inout mat2 lies, out mat2 more) {
    more = mat2(0.0);
    float e = 0.5 * (lies[0].x + lies[1].y), f = 0.5 * (lies[0].x - lies[1].y);
    float g = 0.5 * (lies[0].y + lies[1].x), h = 0.5 * (lies[0].y - lies[1].x);
    float q = length(vec2(e, h)), r = length(vec2(f, g));
    vec2 wide = vec2(q + r, q - r), wider = max(abs(wide), vec2(LEAST)) * vec2(1.0, wide.y < 0.0 ? -1.0 : 1.0);
    if (wide == wider) return 1.0;
    float one = r > 0.0 ? atan(g, f) : 0.0, other = q > 0.0 ? atan(h, e) : 0.0;
    float before = 0.5 * (other - one), after = 0.5 * (other + one);
    mat2 first = mat2(cos(before), sin(before), -sin(before), cos(before)), last = mat2(cos(after), sin(after), -sin(after), cos(after));
    vec2 grown = wider - wide;
    more = last * mat2(grown.x, 0.0, 0.0, grown.y) * first;
    lies += more;
    return abs(wide.x * wide.y) / abs(wider.x * wider.y);
}
#endif

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
    noise_place = vec3(fract(in_dice.x * vec2(97.13, 41.77)), in_lived);
#endif
    //: pass on
    // In clip space the last part is the distance from the eye's plane.
    gl_Position = whole * vec4(in_place, 1.0);
    float depth = gl_Position.w;
    // Pixels in a metre, seen from a metre away.
    float sharp = lens.y * height * 0.5;
    float thin = 1.0;
#ifdef POINTS
    vec2 given = in_size * (0.5 * sharp / depth), half_wide = max(given, vec2(LEAST));
#ifdef TEXTURED
    vec2 whole_wide = half_wide + 0.75;
    float reach = max(abs(c) * whole_wide.x + abs(s) * whole_wide.y, abs(s) * whole_wide.x + abs(c) * whole_wide.y);
#else
    float reach = max(half_wide.x, half_wide.y);
#endif
    gl_PointSize = 2.0 * reach;
    turn = vec4(c, s, vec2(reach) / half_wide);
    thin = given.x * given.y / (half_wide.x * half_wide.y);
#ifdef LIT
    side_x = c * axes[0] + s * axes[1];
    side_y = c * axes[1] - s * axes[0];
#endif
#else
    // How a sprite lies: what a half of it across, and a half of it up, is in pixels.
    mat2 lies;
    bool seen = depth > 0.0 && min(in_size.x, in_size.y) > 0.0;
#if defined(STREAK)
    float span = length(in_way);
    float wanted = clamp(span, streak_ends.x, streak_ends.y);
    vec3 way = span > 1e-9 ? in_way * (wanted / span) : axes[1] * wanted;
    vec4 head = gl_Position, tail = whole * vec4(in_place - way, 1.0);
    float nearest = 0.05 * head.w;
    if (tail.w < nearest) tail = mix(head, tail, (head.w - nearest) / (head.w - tail.w));
    vec4 middle = mix(tail, head, 0.5);
    vec2 drawn_out = (head.xy / head.w - tail.xy / tail.w) / lens;
    float far = length(drawn_out);
    vec2 up = far > 1e-7 ? drawn_out / far : vec2(0.0, 1.0);
    vec2 right = vec2(up.y, -up.x);
    float fine = sharp / middle.w;
    lies = mat2(right * (0.5 * in_size.x * fine), up * (0.5 * (far * sharp + in_size.y * fine)));
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
    vec4 middle = whole * vec4(in_place - y * (anchor * in_size.y), 1.0);
    vec4 half_x = whole * vec4(x * (0.5 * in_size.x), 0.0), half_y = whole * vec4(y * (0.5 * in_size.y), 0.0);
    float fine = sharp / middle.w;
    lies = mat2((half_x.xy - middle.xy * (half_x.w / middle.w)) / lens * fine, (half_y.xy - middle.xy * (half_y.w / middle.w)) / lens * fine);
    seen = seen && middle.w > 0.0;
#else
    float fine = sharp / depth;
    lies = mat2(vec2(c, s) * (0.5 * in_size.x * fine), vec2(-s, c) * (0.5 * in_size.y * fine));
#endif
    mat2 more = mat2(0.0);
    if (seen) thin = widen(lies, more);
    vec2 pad = vec2(0.0);
    float spread = abs(determinant(lies));
    vec2 corner = vec2(float(min(gl_VertexID, 3) & 1), float(min(gl_VertexID, 3) >> 1)) * 2.0 - 1.0;
#ifdef TEXTURED
    // What stands up from either side, across the other.
    vec2 high = vec2(spread / max(length(lies[1]), 1e-9), spread / max(length(lies[0]), 1e-9));
#ifndef CUTOUT
    // Its edge is as wide as a pixel, across its corners.
    if (seen) pad = 0.75 / max(high, vec2(1e-3));
#endif
    if (2.0 * min(high.x, high.y) > SQUARE || !seen) corner = texelFetch(corners, ivec2(gl_VertexID, int(sheet.x)), 0).xy;
#ifdef BENDS
    corner = clamp(corner + sign(corner) * 2.0 * abs(in_bend), -1.0, 1.0);
#endif
    corner += sign(corner) * pad * vec2(greaterThan(abs(corner), vec2(0.999)));
#endif
    spot = corner;
#ifdef TEXTURED
    corner.x *= sheet.w;
#endif
#if defined(STREAK)
    // Its ends are those of the way; what goes beyond them is as wide as elsewhere.
    vec2 inside = vec2(corner.x, clamp(corner.y, -1.0, 1.0));
    gl_Position = mix(tail, head, inside.y * 0.5 + 0.5);
    vec2 side = vec2(0.5 * inside.x, 0.5 * inside.y - anchor) * in_size + vec2(0.0, (corner.y - inside.y) * length(lies[1]) / fine);
    gl_Position.xy += (right * side.x + up * side.y) * lens;
    gl_Position.xy += more * inside / sharp * lens * gl_Position.w;
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
    gl_Position = middle + half_x * corner.x + half_y * corner.y;
    gl_Position.xy += more * corner / sharp * lens * gl_Position.w;
#ifdef LIT
    side_x = x;
    side_y = y;
#endif
#else
    vec2 side = vec2(0.5 * corner.x, 0.5 * corner.y - anchor) * in_size;
    gl_Position.xy += (vec2(c * side.x - s * side.y, s * side.x + c * side.y) + more * corner / fine) * lens;
#ifdef LIT
    side_x = c * axes[0] + s * axes[1];
    side_y = c * axes[1] - s * axes[0];
#endif
#endif
#endif
    light = vec4(in_color * in_intensity, in_opacity * near_fade(depth) * thin);
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
