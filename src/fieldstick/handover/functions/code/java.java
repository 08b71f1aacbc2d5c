// What functions of java are made of; which of it one needs, `snippets.py` says.
// ---- converted
    /** Converts a text; a mark that ends a sentence stays out of what it follows. Null where it is no value. */
    private static <T> T converted(String text, Function<String, T> convert) {
        T found = convert.apply(text);
        boolean marked = !text.isEmpty() && ".,;:!?\u2026".indexOf(text.charAt(text.length() - 1)) >= 0;
        return found == null && marked ? convert.apply(text.substring(0, text.length() - 1)) : found;
    }
// ---- number
    private static String number(String text, Pattern shape, String groupMark, String decimalMark) {
        if (!shape.matcher(text).find()) return null;
        String plain = groupMark.isEmpty() ? text : text.replace(groupMark, "");
        return plain.replace(decimalMark, ".").replace('\u2212', '-');
    }
// ---- integer
    private static BigInteger integer(String text, Pattern shape, String groupMark) {
        String plain = number(text, shape, groupMark, ".");
        return plain == null ? null : new BigInteger(plain);
    }
// ---- decimal
    private static BigDecimal decimal(String text, Pattern shape, String groupMark, String decimalMark) {
        try {
            String plain = number(text, shape, groupMark, decimalMark);
            return plain == null ? null : new BigDecimal(plain);
        } catch (NumberFormatException error) {
            return null;
        }
    }
// ---- moment
    /** Reads a moment; `roles` say what each capture of the shape is, `kind` which part of it is wanted. */
    private static Temporal moment(String text, Pattern shape, String roles, String kind) {
        Matcher match = shape.matcher(text);
        if (!match.find()) return null;
        Map<Character, String> part = new HashMap<>();
        for (int at = 0; at < roles.length(); at++)
            if (match.group(at + 1) != null) part.put(roles.charAt(at), match.group(at + 1));
        int year = Integer.parseInt(part.getOrDefault('Y', "1900"));
        String shortYear = part.get('y');
        if (shortYear != null) year = Integer.parseInt(shortYear) + (shortYear.compareTo("69") < 0 ? 2000 : 1900);
        int month = Integer.parseInt(part.getOrDefault('m', "1"));
        String months = "janfebmaraprmayjunjulaugsepoctnovdec", name = part.get('b');
        if (name != null) month = months.indexOf(name.toLowerCase(Locale.ROOT).substring(0, 3)) / 3 + 1;
        int half = Integer.parseInt(part.getOrDefault('I', "12"));
        int hour = half % 12 + (part.getOrDefault('p', "").toLowerCase(Locale.ROOT).startsWith("p") ? 12 : 0);
        if (part.containsKey('H')) hour = Integer.parseInt(part.get('H'));
        int micros = Integer.parseInt((part.getOrDefault('f', "") + "000000").substring(0, 6));
        if (year < 1 || half < 1 || half > 12) return null;
        try {
            LocalDate day = LocalDate.of(year, month, Integer.parseInt(part.getOrDefault('d', "1")));
            LocalTime time = LocalTime.of(hour, Integer.parseInt(part.getOrDefault('M', "0")),
                Integer.parseInt(part.getOrDefault('S', "0")), micros * 1000);
            if (kind.equals("date")) return day;
            if (kind.equals("time")) return time;
            String zone = part.get('z');
            if (zone == null) return LocalDateTime.of(day, time);
            return OffsetDateTime.of(day, time, ZoneOffset.of(zone.equals("z") ? "Z" : zone));
        } catch (DateTimeException error) {
            return null;
        }
    }
// ---- order
    /** Tells how two timestamps stand to each other; null where only one of them has an offset. */
    private static Integer order(Temporal one, Temporal other) {
        if (one instanceof OffsetDateTime first && other instanceof OffsetDateTime second)
            return first.toInstant().compareTo(second.toInstant());
        if (one instanceof LocalDateTime first && other instanceof LocalDateTime second) return first.compareTo(second);
        return null;
    }

    private static boolean isBefore(Temporal one, Temporal other) {
        Integer order = order(one, other);
        return order == null || order < 0;
    }
