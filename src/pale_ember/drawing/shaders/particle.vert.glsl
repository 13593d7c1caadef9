#version 330 core
// One particle, as a square that faces the camera or, with POINTS, as a point that holds it. What all particles of a
// layer share is a uniform in place of an attribute.
uniform mat4 whole;  // world to clip space
uniform vec2 lens;  // how far a metre across, and one up, goes in clip space
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
#ifdef POINTS
uniform float height;
flat out vec4 turn;
flat out vec4 light;
#else
out vec2 spot;
out vec4 light;
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
#else
    vec2 corner = vec2(float(gl_VertexID & 1), float(gl_VertexID >> 1)) * 2.0 - 1.0;
    vec2 side = corner * in_size * 0.5;
    gl_Position.xy += vec2(c * side.x - s * side.y, s * side.x + c * side.y) * lens;
    spot = corner;
    light = vec4(in_color * in_intensity, in_opacity * near_fade(depth));
#endif
}
