// What functions of javascript are made of; which of it one needs, `snippets.py` says.
// ---- converted
// Converts a text; a mark that ends a sentence stays out of what it follows. Undefined where it is no value.
function converted(text, convert) {
  const found = convert(text);
  return found === undefined && /[.,;:!?\u2026]$/.test(text) ? convert(text.slice(0, -1)) : found;
}
// ---- number
function number(text, shape, groupMark, decimalMark) {
  if (!shape.test(text)) return undefined;
  const plain = groupMark ? text.replaceAll(groupMark, "") : text;
  return plain.replace(decimalMark, ".").replace("\u2212", "-").replace("+", "");
}
// ---- integer
function integer(text, shape, groupMark) {
  const plain = number(text, shape, groupMark, ".");
  if (plain === undefined) return undefined;
  const found = Number(plain);
  return Number.isSafeInteger(found) ? found : plain[0] === "-" ? -BigInt(plain.slice(1)) : BigInt(plain);
}
// ---- decimal
function decimal(text, shape, groupMark, decimalMark) {
  const plain = number(text, shape, groupMark, decimalMark);
  return plain === undefined ? undefined : Number(plain);
}
// ---- moment
const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];

// Reads a moment; `roles` say what each capture of the shape is, `kind` which part of it is wanted.
function moment(text, shape, roles, kind) {
  const match = shape.exec(text);
  if (match === null) return undefined;
  const part = {};
  [...roles].forEach((role, at) => { if (match[at + 1] !== undefined) part[role] = match[at + 1]; });
  const short = Number(part.y);
  const year = part.Y !== undefined ? Number(part.Y) : part.y === undefined ? 1900 : short + (short < 69 ? 2000 : 1900);
  const month = part.b !== undefined ? MONTHS.indexOf(part.b.slice(0, 3).toLowerCase()) + 1 : Number(part.m ?? 1);
  const day = Number(part.d ?? 1);
  const half = Number(part.I ?? 12);
  const hour = part.H !== undefined ? Number(part.H) : (half % 12) + (/^p/i.test(part.p ?? "") ? 12 : 0);
  const [minute, second] = [Number(part.M ?? 0), Number(part.S ?? 0)];
  const [, sign, hours, minutes] = /^([+-])(\d\d):?(\d\d)?$/.exec(part.z ?? "") ?? [];
  const ahead = (sign === "-" ? -1 : 1) * (60 * (hours ?? 0) + Number(minutes ?? 0));
  const offset = part.z === undefined ? undefined : ahead;
  const leap = year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0);
  const days = [31, leap ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31][month - 1] ?? 0;
  const isDay = year >= 1 && day >= 1 && day <= days;
  if (!isDay || half < 1 || half > 12 || hour > 23 || minute > 59 || second > 59) return undefined;
  if (Math.abs(offset ?? 0) >= 1440 || Number(minutes ?? 0) > 59) return undefined;
  const two = (number) => String(number).padStart(2, "0");
  const fraction = (part.f ?? "").padEnd(6, "0").slice(0, 6);
  const date = `${String(year).padStart(4, "0")}-${two(month)}-${two(day)}`;
  const time = `${two(hour)}:${two(minute)}:${two(second)}${Number(fraction) ? `.${fraction}` : ""}`;
  if (kind === "date") return date;
  if (kind === "time") return time;
  const size = Math.abs(offset ?? 0);
  const zone = offset === undefined ? "" : `${offset < 0 ? "-" : "+"}${two(Math.floor(size / 60))}:${two(size % 60)}`;
  return `${date}T${time}${zone}`;
}
// ---- instant
// Where a timestamp of ISO 8601 stands on a line, in microseconds; undefined where only one of the two has an offset.
function instant(text, hasOffset) {
  const [, day, clock, fraction, zone] = /^(.{10})T(.{8})(?:\.(\d+))?(.*)$/.exec(text);
  if ((zone !== "") !== hasOffset) return undefined;
  return BigInt(Date.parse(`${day}T${clock}${zone || "Z"}`)) * 1000n + BigInt((fraction ?? "").padEnd(6, "0"));
}
