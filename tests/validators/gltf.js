// Prints what the validator says of a glTF file: its errors and warnings.
const fs = require("fs");
require("gltf-validator").validateBytes(new Uint8Array(fs.readFileSync(process.argv[2]))).then((report) => console.log(JSON.stringify(report.issues)));
