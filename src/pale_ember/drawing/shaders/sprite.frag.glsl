// A dot over its square.
in vec2 spot;
in vec4 light;
void main() {
    fill_dot(spot, light);
}
