// Compiles and matches for whoever runs it, in V8 alone or in Node.js. Offsets count code units of UTF-16.
"use strict";
var known = new Map();

function rule(error) {
  const said = String(error && error.message !== undefined ? error.message : error);
  // "Invalid regular expression: /…/flags: the rule"
  return said.startsWith("Invalid regular expression: ") ? said.slice(said.lastIndexOf(": ") + 2) : said;
}

// The flags g and d are ours: all matches, and where they lie.
function compile(key, expression, flags) {
  try {
    new RegExp(expression, flags);
    known.set(key, {
      anywhere: new RegExp(expression, flags + "gd"),
      start: new RegExp(expression, flags + "yd"),
      // Whatever m and s say, nothing stands before and nothing after.
      whole: new RegExp("(?<![^])(?:" + expression + ")(?![^])", flags + "yd"),
    });
    return new RegExp("(?:" + expression + ")|", flags).exec("").length - 1;
  } catch (error) {
    return rule(error);
  }
}

function spans(match) {
  return match.indices.map((each) => (each === undefined ? "-1,-1" : each[0] + "," + each[1])).join(",");
}

// One string is handed over faster than lists of numbers: "=" and the matches, or what went wrong.
function matches(key, reach, wanted, text) {
  try {
    const one = known.get(key)[reach];
    one.lastIndex = 0;
    if (reach !== "anywhere") {
      const match = one.exec(text);
      return match === null ? "=" : "=" + spans(match);
    }
    const found = [];
    for (const match of text.matchAll(one)) {
      found.push(spans(match));
      if (found.length === wanted) break;
    }
    return "=" + found.join(";");
  } catch (error) {
    return String(error);
  }
}
