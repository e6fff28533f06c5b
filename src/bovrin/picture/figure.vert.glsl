#version 330
// Skinning by up to four joints; with `hull` above zero the surface is pushed out along its normal by that many pixels.
uniform mat4 to_clip;
uniform sampler2D joints;
uniform vec2 half_size;
uniform float hull;
in vec3 position;
in vec3 normal;
in vec4 weight;
in uvec4 joint;
in vec3 colour;
in vec2 uv;
out vec3 world_normal;
out vec3 tint;
out vec2 spot;
flat out uint strongest;

mat4 joint_matrix(uint j) {
    vec4 a = texelFetch(joints, ivec2(0, int(j)), 0);
    vec4 b = texelFetch(joints, ivec2(1, int(j)), 0);
    vec4 c = texelFetch(joints, ivec2(2, int(j)), 0);
    return transpose(mat4(a, b, c, vec4(0, 0, 0, 1)));
}

void main() {
    mat4 m = joint_matrix(joint.x) * weight.x;
    if (weight.y > 0.0) m += joint_matrix(joint.y) * weight.y;
    if (weight.z > 0.0) m += joint_matrix(joint.z) * weight.z;
    if (weight.w > 0.0) m += joint_matrix(joint.w) * weight.w;
    world_normal = mat3(m) * normal;
    tint = colour;
    spot = uv;
    strongest = uint(texelFetch(joints, ivec2(3, int(joint.x)), 0).x + 0.5);
    gl_Position = to_clip * (m * vec4(position, 1.0));
    if (hull > 0.0) {
        vec4 n = to_clip * vec4(world_normal, 0.0);
        vec2 aside = n.xy * half_size;
        float size = length(aside);
        if (size > 1e-6) gl_Position.xy += aside / size * hull / half_size * gl_Position.w;
    }
}
