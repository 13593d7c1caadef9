#version 330 core
// Plain shading of a prop: the key light, the sky above, the ground below.
uniform vec3 paint;
uniform vec3 key_from;
uniform vec3 key_light;
uniform vec3 sky_light;
uniform vec3 ground_light;
in vec3 normal;
in vec3 place;
out vec4 pixel;
#ifdef SHINES
//: shining
#endif
void main() {
    vec3 n = normalize(normal);
#ifdef SHINES
    pixel = vec4(paint * shining(place, n), 0.0);
#else
    vec3 light = key_light * max(dot(n, key_from), 0.0) + mix(ground_light, sky_light, n.y * 0.5 + 0.5);
    pixel = vec4(paint * light, 1.0);
#endif
}
