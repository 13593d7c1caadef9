#version 330 core
// A prop's corner in the world.
uniform mat4 whole;
uniform mat4 pose;
uniform mat3 turn;
in vec3 in_place;
in vec3 in_normal;
out vec3 normal;
out vec3 place;
void main() {
    vec4 at = pose * vec4(in_place, 1.0);
    place = at.xyz;
    normal = turn * in_normal;
    gl_Position = whole * at;
}
