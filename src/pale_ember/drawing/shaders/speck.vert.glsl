// One particle as a point: the circle about it, turned back where it is filled.
uniform float height;
flat out vec4 turn;
flat out vec4 light;
void main() {
    vec4 eye = view * vec4(in_place, 1.0);
    gl_Position = projection * eye;
    float reach = max(in_size.x, in_size.y);
    float wide = reach * projection[1][1] * height * 0.5 / gl_Position.w;
    gl_PointSize = max(wide, 1.0);
    // What is smaller than a pixel gives its pixel as much less light.
    float share = min(wide, 1.0);
    turn = vec4(cos(in_angle), sin(in_angle), vec2(reach) / max(in_size, vec2(1e-9)));
    light = vec4(in_color * in_intensity, in_opacity * near_fade(-eye.z) * share * share);
}
