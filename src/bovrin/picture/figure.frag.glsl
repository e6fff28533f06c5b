#version 330
// Two flat tones with a narrow soft edge between them; or the flat ink of the outline; or the joint's number for picking.
uniform vec3 light;
uniform vec4 ink;
uniform int mode;
uniform int figure_number;
in vec3 world_normal;
in vec3 tint;
in vec2 spot;
uniform sampler2D skin;
uniform bool textured;
uniform float cutoff;
uniform bool blended;
uniform float opacity;
uniform vec3 light_colour;
flat in uint strongest;
out vec4 result;

void main() {
    if (mode == 1) { result = ink; return; }
    if (mode == 2) { result = vec4(float(strongest & 255u), float(strongest >> 8), float(figure_number), 255.0) / 255.0; return; }
    float lit = smoothstep(-0.04, 0.04, dot(normalize(world_normal), light) + 0.18);
    vec3 own = tint;
    float solid = blended ? opacity : 1.0;
    if (textured) {
        vec4 seen = texture(skin, spot);
        if (seen.a < cutoff) discard;
        own *= seen.rgb;
        if (blended) solid *= seen.a;
    }
    vec3 shade = own * vec3(0.72, 0.70, 0.76);
    result = vec4(mix(shade, own, lit) * light_colour, solid);
}
