#version 330 core
// One particle as a square that faces the camera.
uniform mat4 view;
uniform mat4 projection;
in vec3 in_place;
in vec2 in_size;
in float in_angle;
in vec3 in_color;
in float in_opacity;
in float in_intensity;
out vec2 spot;
out vec4 light;
void main() {
    vec2 corner = vec2(float(gl_VertexID & 1), float(gl_VertexID >> 1)) * 2.0 - 1.0;
    float c = cos(in_angle), s = sin(in_angle);
    vec2 side = corner * in_size * 0.5;
    vec4 eye = view * vec4(in_place, 1.0);
    eye.xy += vec2(c * side.x - s * side.y, s * side.x + c * side.y);
    gl_Position = projection * eye;
    // What comes very near the eye fades instead of filling the picture.
    float reach = max(in_size.x, in_size.y);
    float near = smoothstep(0.0, 1.0, -eye.z / max(0.25 * reach, 1e-4));
    spot = corner;
    light = vec4(in_color * in_intensity, in_opacity * near);
}
