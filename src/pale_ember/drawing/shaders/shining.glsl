// The light of layers at a place whose surface looks along a normal.
const int MOST = 8;
uniform int count;
uniform vec4 places[MOST];  // where, and how far it reaches
uniform vec3 colors[MOST];

vec3 shining(vec3 at, vec3 normal) {
    vec3 sum = vec3(0.0);
    for (int i = 0; i < count; i++) {
        vec3 to = places[i].xyz - at;
        float far = dot(to, to) / (places[i].w * places[i].w);
        float near = max(1.0 - far, 0.0);
        // From a body of light, not from a point: what is right beside it is lit from all of it.
        float facing = (dot(normal, to) + 0.25 * length(to)) / (1.25 * length(to) + 1e-4);
        sum += colors[i] * near * near / (1.0 + 6.0 * far) * max(facing, 0.0);
    }
    return sum;
}
