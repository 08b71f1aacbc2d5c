// Speaks for the engine of Node.js; see companion.py for the form of requests and answers.
"use strict";
const fs = require("fs");
const path = require("path");
require("vm").runInThisContext(fs.readFileSync(path.join(__dirname, "reading.js"), "utf8"));

const coded = (text) => "x" + Buffer.from(text, "utf8").toString("hex");
const decoded = (word) => Buffer.from(word.slice(1), "hex").toString("utf8");
const say = (...words) => fs.writeSync(1, words.join(" ") + "\n");
const mode = process.argv[2];

function answer(line) {
  const [word, key, ...rest] = line.split(" ");
  if (word === "c") {
    const made = compile(key, decoded(rest[1]), rest[0].replace(/[-a]/g, "") + mode);
    // How many groups there are; whoever asks knows how to read their names.
    if (typeof made === "string") say("no", "-1", coded(made));
    else say("ok", ...Array(made).fill("x"));
    return;
  }
  const found = matches(key, rest[0], Number(rest[1]), decoded(rest[2]));
  if (found.startsWith("=")) say("is", found.slice(1));
  else say("err", coded(found));
}

say("ready", coded("Node.js " + process.versions.node + ", V8 " + process.versions.v8), "halves");
let left = Buffer.alloc(0);
const piece = Buffer.alloc(1 << 16);
for (;;) {
  let size = 0;
  try {
    size = fs.readSync(0, piece, 0, piece.length, null);
  } catch (error) {
    if (error.code === "EAGAIN") continue;
    throw error;
  }
  if (size === 0) break;
  left = Buffer.concat([left, piece.subarray(0, size)]);
  let end;
  while ((end = left.indexOf(10)) >= 0) {
    const line = left.subarray(0, end).toString("ascii");
    left = left.subarray(end + 1);
    answer(line);
  }
}
