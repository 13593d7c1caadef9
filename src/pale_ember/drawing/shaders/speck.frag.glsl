// A dot in the square of a point.
flat in vec4 turn;
flat in vec4 light;
void main() {
    vec2 at = vec2(gl_PointCoord.x * 2.0 - 1.0, 1.0 - gl_PointCoord.y * 2.0);
    fill_dot(vec2(turn.x * at.x + turn.y * at.y, turn.x * at.y - turn.y * at.x) * turn.zw, light);
}
