#version 330
// What was skinned, as the view has it; with `hull` above zero the surface is pushed out along its normal by that many pixels.
uniform mat4 to_clip;
uniform vec2 half_size;
uniform float hull;
in vec4 place;
in vec3 normal;
in vec3 colour;
in vec2 uv;
in uint bone;
out vec3 world_normal;
out vec3 tint;
out vec2 spot;
flat out uint strongest;

void main() {
    world_normal = normal;
    tint = colour;
    spot = uv;
    strongest = bone;
    gl_Position = to_clip * place;
    if (hull > 0.0) {
        vec4 n = to_clip * vec4(world_normal, 0.0);
        vec2 aside = n.xy * half_size;
        float size = length(aside);
        if (size > 1e-6) gl_Position.xy += aside / size * hull / half_size * gl_Position.w;
    }
}
