#version 330 core
// What each way of drawing a particle begins with: its instance, and how near the eye it is.
uniform mat4 view;
uniform mat4 projection;
in vec3 in_place;
in vec2 in_size;
in float in_angle;
in vec3 in_color;
in float in_opacity;
in float in_intensity;

// What comes very near the eye fades instead of filling the picture.
float near_fade(float depth) {
    float reach = max(in_size.x, in_size.y);
    return smoothstep(0.0, 1.0, depth / max(0.25 * reach, 1e-4));
}
