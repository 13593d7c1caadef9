// One particle as a square that faces the camera.
out vec2 spot;
out vec4 light;
void main() {
    vec2 corner = vec2(float(gl_VertexID & 1), float(gl_VertexID >> 1)) * 2.0 - 1.0;
    float c = cos(in_angle), s = sin(in_angle);
    vec2 side = corner * in_size * 0.5;
    vec4 eye = view * vec4(in_place, 1.0);
    eye.xy += vec2(c * side.x - s * side.y, s * side.x + c * side.y);
    gl_Position = projection * eye;
    spot = corner;
    light = vec4(in_color * in_intensity, in_opacity * near_fade(-eye.z));
}
