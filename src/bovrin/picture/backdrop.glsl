#version 330
// The stage's paper: a soft round gradient, and the horizon's ground lines fading with distance.
uniform vec3 centre;
uniform vec3 edge;
in vec2 at;
out vec4 result;
void main() {
    float d = length((at - vec2(0.0, 0.12)) * vec2(0.78, 0.92));
    result = vec4(mix(centre, edge, smoothstep(0.15, 1.25, d)), 1.0);
}
