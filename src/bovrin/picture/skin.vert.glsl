#version 330
// Skinning by up to four joints, once for all that is drawn with it: places and normals in the world go into a buffer.
uniform sampler2D joints;
in vec3 position;
in vec3 normal;
in vec4 weight;
in uvec4 joint;
out vec4 world_place;
out vec3 world_normal;

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
    world_place = m * vec4(position, 1.0);
}
