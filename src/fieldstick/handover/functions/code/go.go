// What functions of go are made of; which of it one needs, `snippets.py` says.
// ---- converted
// PREFIXConverted converts a text; a mark that ends a sentence stays out of what it follows.
func PREFIXConverted[T any](text string, convert func(string) (T, bool)) (T, bool) {
	found, ok := convert(text)
	for _, mark := range []string{".", ",", ";", ":", "!", "?", "\u2026"} {
		if !ok && strings.HasSuffix(text, mark) {
			return convert(strings.TrimSuffix(text, mark))
		}
	}
	return found, ok
}
// ---- number
func PREFIXNumber(text string, shape *regexp.Regexp, groupMark, decimalMark string) (string, bool) {
	if !shape.MatchString(text) {
		return "", false
	}
	if groupMark != "" {
		text = strings.ReplaceAll(text, groupMark, "")
	}
	return strings.Replace(strings.Replace(text, decimalMark, ".", 1), "\u2212", "-", 1), true
}
// ---- integer
func PREFIXInteger(shape *regexp.Regexp, groupMark string) func(string) (*big.Int, bool) {
	return func(text string) (*big.Int, bool) {
		plain, ok := PREFIXNumber(text, shape, groupMark, ".")
		if !ok {
			return nil, false
		}
		return new(big.Int).SetString(plain, 10)
	}
}
// ---- decimal
func PREFIXDecimal(shape *regexp.Regexp, groupMark, decimalMark string) func(string) (*big.Rat, bool) {
	return func(text string) (*big.Rat, bool) {
		plain, ok := PREFIXNumber(text, shape, groupMark, decimalMark)
		_, exponent, _ := strings.Cut(strings.ToLower(plain), "e")
		if !ok || len(strings.TrimLeft(exponent, "+-0")) > 4 {
			return nil, false
		}
		return new(big.Rat).SetString(plain)
	}
}
// ---- moment
// PREFIXMoment reads a moment; roles say what each capture of the shape is, kind which part of it is wanted.
func PREFIXMoment(shape *regexp.Regexp, roles, kind string) func(string) (*time.Time, bool) {
	return func(text string) (*time.Time, bool) {
		match := shape.FindStringSubmatch(text)
		if match == nil {
			return nil, false
		}
		part := map[rune]string{}
		for at, role := range roles {
			if match[at+1] != "" {
				part[role] = match[at+1]
			}
		}
		number := func(role rune, otherwise int) int {
			if found, err := strconv.Atoi(part[role]); err == nil {
				return found
			}
			return otherwise
		}
		year := number('Y', 1900)
		if short := number('y', -1); short >= 69 {
			year = 1900 + short
		} else if short >= 0 {
			year = 2000 + short
		}
		month := number('m', 1)
		if name := strings.ToLower(part['b']); name != "" {
			month = strings.Index("janfebmaraprmayjunjulaugsepoctnovdec", name[:3])/3 + 1
		}
		half := number('I', 12)
		hour := number('H', half%12)
		if strings.HasPrefix(strings.ToLower(part['p']), "p") && part['H'] == "" {
			hour += 12
		}
		minute, second, day := number('M', 0), number('S', 0), number('d', 1)
		micros, _ := strconv.Atoi((part['f'] + "000000")[:6])
		zone := time.UTC
		if offset := strings.ReplaceAll(part['z'], ":", ""); len(offset) >= 3 {
			hours, _ := strconv.Atoi(offset[1:3])
			minutes, _ := strconv.Atoi((offset + "00")[3:5])
			size := 3600*hours + 60*minutes
			if minutes > 59 || hours > 23 {
				return nil, false
			}
			if offset[0] == '-' {
				size = -size
			}
			zone = time.FixedZone("", size)
		}
		made := time.Date(year, time.Month(month), day, hour, minute, second, micros*1000, zone)
		isDay := year > 0 && made.Month() == time.Month(month) && made.Day() == day
		if !isDay || half < 1 || half > 12 || hour > 23 || minute > 59 || second > 59 {
			return nil, false
		}
		switch kind {
		case "date":
			made = time.Date(year, time.Month(month), day, 0, 0, 0, 0, time.UTC)
		case "time":
			made = time.Date(1, 1, 1, hour, minute, second, micros*1000, time.UTC)
		}
		return &made, true
	}
}
// ---- at
func PREFIXAt(text string) time.Time {
	made, err := time.Parse(time.RFC3339Nano, text)
	if err != nil {
		panic(err)
	}
	return made
}
// ---- offset
func PREFIXHasOffset(text string, shape *regexp.Regexp, roles string) bool {
	match := shape.FindStringSubmatch(strings.TrimRight(text, ".,;:!?\u2026"))
	return match != nil && match[strings.Index(roles, "z")+1] != ""
}
