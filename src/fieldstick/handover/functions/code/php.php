// What functions of php are made of; which of it one needs, `snippets.py` says.
// ---- converted
/** Converts a text; a mark that ends a sentence stays out of what it follows. Null where it is no value. */
function PREFIX_converted(string $text, callable $convert): mixed
{
    $found = $convert($text);
    $plain = preg_replace('~[.,;:!?\x{2026}]\z~u', '', $text);
    return $found === null && $plain !== $text ? $convert($plain) : $found;
}
// ---- number
function PREFIX_number(string $text, string $shape, string $groupMark, string $decimalMark): ?string
{
    if (preg_match($shape, $text) !== 1) {
        return null;
    }
    $plain = $groupMark === '' ? $text : str_replace($groupMark, '', $text);
    return str_replace([$decimalMark, "\u{2212}", '+'], ['.', '-', ''], $plain);
}
// ---- integer
function PREFIX_integer(string $text, string $shape, string $groupMark): ?int
{
    $plain = PREFIX_number($text, $shape, $groupMark, '.');
    if ($plain === null) {
        return null;
    }
    $sign = $plain[0] === '-' ? '-' : '';
    $digits = ltrim($plain, '-0');
    $found = filter_var($digits === '' ? '0' : $sign . $digits, FILTER_VALIDATE_INT);
    return $found === false ? null : $found;
}
// ---- decimal
function PREFIX_decimal(string $text, string $shape, string $groupMark, string $decimalMark): ?float
{
    $plain = PREFIX_number($text, $shape, $groupMark, $decimalMark);
    return $plain === null ? null : (float) $plain;
}
// ---- moment
/** Reads a moment; $roles say what each capture of the shape is, $kind which part of it is wanted. */
function PREFIX_moment(string $text, string $shape, string $roles, string $kind): ?DateTimeImmutable
{
    if (preg_match($shape, $text, $match, PREG_UNMATCHED_AS_NULL) !== 1) {
        return null;
    }
    $part = [];
    foreach (str_split($roles) as $at => $role) {
        if ($match[$at + 1] !== null) {
            $part[$role] = $match[$at + 1];
        }
    }
    $short = (int) ($part['y'] ?? 0);
    $year = (int) ($part['Y'] ?? (isset($part['y']) ? $short + ($short < 69 ? 2000 : 1900) : 1900));
    $month = isset($part['b'])
        ? intdiv(strpos('janfebmaraprmayjunjulaugsepoctnovdec', strtolower(substr($part['b'], 0, 3))), 3) + 1
        : (int) ($part['m'] ?? 1);
    $day = (int) ($part['d'] ?? 1);
    $half = (int) ($part['I'] ?? 12);
    $hour = (int) ($part['H'] ?? $half % 12 + (str_starts_with(strtolower($part['p'] ?? ''), 'p') ? 12 : 0));
    $minute = (int) ($part['M'] ?? 0);
    $second = (int) ($part['S'] ?? 0);
    $zone = str_replace(':', '', strtoupper($part['z'] ?? 'Z'));
    $zone = $zone === 'Z' ? '+0000' : str_pad($zone, 5, '0');
    $holds = $year >= 1 && checkdate($month, $day, $year) && $half >= 1 && $half <= 12 && $hour < 24 && $minute < 60;
    if (!$holds || $second > 59 || (int) substr($zone, 1, 2) > 23 || (int) substr($zone, 3) > 59) {
        return null;
    }
    $fraction = substr(str_pad($part['f'] ?? '', 6, '0'), 0, 6);
    return new DateTimeImmutable(match ($kind) {
        'date' => sprintf('%04d-%02d-%02dT00:00:00Z', $year, $month, $day),
        'time' => sprintf('1970-01-01T%02d:%02d:%02d.%sZ', $hour, $minute, $second, $fraction),
        default => sprintf(
            '%04d-%02d-%02dT%02d:%02d:%02d.%s%s', $year, $month, $day, $hour, $minute, $second, $fraction, $zone
        ),
    });
}
// ---- offset
function PREFIX_has_offset(string $text, string $shape, string $roles): bool
{
    $found = preg_match($shape, $text, $match, PREG_UNMATCHED_AS_NULL)
        || preg_match($shape, preg_replace('~.\z~us', '', $text), $match, PREG_UNMATCHED_AS_NULL);
    return $found && $match[strpos($roles, 'z') + 1] !== null;
}
