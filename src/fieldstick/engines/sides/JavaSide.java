// Speaks for java.util.regex; see companion.py for the form of requests and answers. Offsets count chars of UTF-16.
import java.io.*;
import java.nio.charset.StandardCharsets;
import java.util.*;
import java.util.regex.*;

public class JavaSide {
    static final Map<String, Pattern> known = new HashMap<>();
    static final PrintStream out = new PrintStream(new FileOutputStream(FileDescriptor.out), false, StandardCharsets.US_ASCII);

    static String decoded(String word) {
        byte[] bytes = new byte[word.length() / 2];
        for (int i = 0; i < bytes.length; i++) bytes[i] = (byte) Integer.parseInt(word.substring(2 * i + 1, 2 * i + 3), 16);
        return new String(bytes, StandardCharsets.UTF_8);
    }

    static String coded(String text) {
        StringBuilder made = new StringBuilder("x");
        for (byte each : String.valueOf(text).getBytes(StandardCharsets.UTF_8)) made.append(String.format("%02x", each));
        return made.toString();
    }

    static void say(String line) {
        out.print(line);
        out.print('\n');
        out.flush();
    }

    static int bits(String letters, boolean unicode) {
        int bits = unicode && letters.indexOf('a') < 0 ? Pattern.UNICODE_CHARACTER_CLASS : 0;
        if (letters.indexOf('i') >= 0) bits |= Pattern.CASE_INSENSITIVE;
        if (letters.indexOf('m') >= 0) bits |= Pattern.MULTILINE;
        if (letters.indexOf('s') >= 0) bits |= Pattern.DOTALL;
        if (letters.indexOf('x') >= 0) bits |= Pattern.COMMENTS;
        return bits;
    }

    static void compile(String key, String letters, String expression, boolean unicode) {
        try {
            Pattern made = Pattern.compile(expression, bits(letters, unicode));
            known.put(key, made);
            say("ok" + " x".repeat(made.matcher("").groupCount()));
        } catch (PatternSyntaxException error) {
            say("no " + Math.max(-1, error.getIndex()) + " " + coded(error.getDescription()));
        } catch (RuntimeException | StackOverflowError error) {
            say("no -1 " + coded(error.toString()));
        }
    }

    static void matches(String key, String reach, int wanted, String text) {
        StringBuilder line = new StringBuilder("is ");
        try {
            Matcher matcher = known.get(key).matcher(text);
            int found = 0;
            while (reach.equals("whole") ? matcher.matches() : reach.equals("start") ? matcher.lookingAt() : matcher.find()) {
                if (found++ > 0) line.append(';');
                for (int group = 0; group <= matcher.groupCount(); group++) {
                    if (group > 0) line.append(',');
                    line.append(matcher.start(group)).append(',').append(matcher.end(group));
                }
                if (!reach.equals("anywhere") || found == wanted) break;
            }
            say(line.toString());
        } catch (StackOverflowError error) {
            say("err " + coded("the stack overflowed"));
        } catch (RuntimeException error) {
            say("err " + coded(error.toString()));
        }
    }

    public static void main(String[] arguments) throws IOException {
        boolean unicode = arguments.length > 0 && arguments[0].equals("unicode");
        BufferedReader in = new BufferedReader(new InputStreamReader(System.in, StandardCharsets.US_ASCII));
        say("ready " + coded("Java " + System.getProperty("java.version")) + " halves");
        for (String line; (line = in.readLine()) != null; ) {
            String[] words = line.split(" ");
            if (words[0].equals("c")) compile(words[1], words[2], decoded(words[3]), unicode);
            else matches(words[1], words[2], Integer.parseInt(words[3]), decoded(words[4]));
        }
    }
}
