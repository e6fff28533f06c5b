// Validates glTF files and prints what is wrong; exits 1 on any error or warning.
const fs = require("fs");
const validator = require("gltf-validator");

async function main() {
  let bad = 0;
  for (const path of process.argv.slice(2)) {
    const report = await validator.validateBytes(new Uint8Array(fs.readFileSync(path)));
    const { numErrors, numWarnings } = report.issues;
    console.log(`${path}: ${numErrors} errors, ${numWarnings} warnings`);
    for (const m of report.issues.messages.slice(0, 12)) {
      if (m.severity < 2) console.log(`  ${m.code} ${m.pointer}: ${m.message}`);
    }
    bad += numErrors + numWarnings;
  }
  process.exit(bad ? 1 : 0);
}
main();
