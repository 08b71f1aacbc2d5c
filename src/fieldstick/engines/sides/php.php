<?php
// Speaks for PHP's preg functions with the modifier u; see companion.py for the form of requests and answers.
// Offsets count bytes of UTF-8.
error_reporting(E_ALL);
ini_set("display_errors", "0");
$known = [];

function decoded(string $word): string { return hex2bin(substr($word, 1)); }
function coded(string $text): string { return "x" . bin2hex($text); }
function say(string ...$words): void { fwrite(STDOUT, implode(" ", $words) . "\n"); }

// A delimiter that the expression does not have needs no escape.
function made(string $expression, string $letters): ?string {
    foreach (["/", "~", "#", "%", "!", "@", ",", ";", "\x01", "\x02", "\x03", "\x04"] as $delimiter) {
        if (!str_contains($expression, $delimiter)) {
            return $delimiter . $expression . $delimiter . "u" . $letters;
        }
    }
    return null;
}

function fault(?string $pattern): ?string {
    if ($pattern === null) return "it has every character that could stand before and after it";
    error_clear_last();
    $tried = @preg_match($pattern, "");
    $error = error_get_last();
    if ($tried !== false || $error === null) return null;
    return preg_replace('/^preg_match\(\): (Compilation failed: )?/', "", $error["message"]);
}

function enclosed(string $before, string $expression, string $after, string $letters): ?string {
    $pattern = made("$before(?:$expression)$after", $letters);
    return fault($pattern) === null ? $pattern : made("$before(?:$expression\n)$after", $letters);
}

function compile(string $key, string $letters, string $expression): void {
    global $known;
    $letters = str_replace(["-", "a"], "", $letters);
    $pattern = made($expression, $letters);
    $said = fault($pattern);
    if ($said !== null) {
        $offset = preg_match('/ at offset (\d+)$/', $said, $match) ? $match[1] : "-1";
        say("no", $offset, coded(preg_replace('/ at offset \d+$/', "", $said)));
        return;
    }
    $known[$key] = [
        "anywhere" => $pattern,
        "start" => enclosed('\A', $expression, "", $letters),
        "whole" => enclosed('\A', $expression, '\z', $letters),
    ];
    preg_match(enclosed("", $expression, "|", $letters), "", $match, PREG_UNMATCHED_AS_NULL);
    $names = [];
    $name = "";
    foreach (array_keys($match) as $group) {
        if (is_string($group)) $name = $group;
        elseif ($group > 0) { $names[] = coded($name); $name = ""; }
    }
    say("ok", ...$names);
}

function spans(array $match): string {
    $flat = [];
    foreach ($match as $group => [$text, $start]) {
        if (is_string($group)) continue;
        $flat[] = $start;
        $flat[] = $start < 0 ? -1 : $start + strlen($text);
    }
    return implode(",", $flat);
}

function matches(string $key, string $reach, int $wanted, string $text): void {
    global $known;
    $flags = PREG_OFFSET_CAPTURE | PREG_UNMATCHED_AS_NULL;
    $pattern = $known[$key][$reach];
    $found = [];
    if ($reach !== "anywhere" || $wanted === 1) {
        $count = @preg_match($pattern, $text, $match, $flags);
        if ($count) $found[] = spans($match);
    } else {
        $count = @preg_match_all($pattern, $text, $all, $flags | PREG_SET_ORDER);
        foreach ($count ? $all : [] as $match) $found[] = spans($match);
        if ($wanted) $found = array_slice($found, 0, $wanted);
    }
    if ($count === false) say("err", coded(preg_last_error_msg()));
    else say("is", implode(";", $found));
}

say("ready", coded("PHP " . PHP_VERSION . ", PCRE " . explode(" ", PCRE_VERSION)[0]), "bytes");
while (($line = fgets(STDIN)) !== false) {
    $words = explode(" ", trim($line));
    if ($words[0] === "c") compile($words[1], $words[2], decoded($words[3]));
    else matches($words[1], $words[2], (int) $words[3], decoded($words[4]));
}
