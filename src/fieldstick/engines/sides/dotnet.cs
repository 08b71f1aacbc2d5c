// Speaks for System.Text.RegularExpressions; see companion.py for the form of requests and answers. Offsets count chars
// of UTF-16.
using System;
using System.Collections.Generic;
using System.IO;
using System.Linq;
using System.Text;
using System.Text.RegularExpressions;

public class Side {
    static readonly Dictionary<string, Dictionary<string, Regex>> known = new Dictionary<string, Dictionary<string, Regex>>();
    static TextWriter output;

    static string Decoded(string word) {
        byte[] bytes = new byte[word.Length / 2];
        for (int i = 0; i < bytes.Length; i++) bytes[i] = Convert.ToByte(word.Substring(2 * i + 1, 2), 16);
        return Encoding.UTF8.GetString(bytes);
    }

    static string Coded(string text) {
        StringBuilder made = new StringBuilder("x");
        foreach (byte each in Encoding.UTF8.GetBytes(text)) made.Append(each.ToString("x2"));
        return made.ToString();
    }

    static void Say(string line) {
        output.Write(line + "\n");
        output.Flush();
    }

    static RegexOptions Options(string letters) {
        RegexOptions options = RegexOptions.CultureInvariant;
        if (letters.IndexOf('i') >= 0) options |= RegexOptions.IgnoreCase;
        if (letters.IndexOf('m') >= 0) options |= RegexOptions.Multiline;
        if (letters.IndexOf('s') >= 0) options |= RegexOptions.Singleline;
        if (letters.IndexOf('x') >= 0) options |= RegexOptions.IgnorePatternWhitespace;
        return options;
    }

    // An expression within a reach: a comment at its end must not take in what is put behind it.
    static Regex Within(string expression, string end, RegexOptions options) {
        try {
            return new Regex("\\A(?:" + expression + ")" + end, options);
        } catch (ArgumentException) {
            return new Regex("\\A(?:" + expression + "\n)" + end, options);
        }
    }

    static void Compile(string key, string letters, string expression) {
        try {
            RegexOptions options = Options(letters);
            Regex plain = new Regex(expression, options);
            Dictionary<string, Regex> made = new Dictionary<string, Regex>();
            made["anywhere"] = plain;
            bool commented = letters.IndexOf('x') >= 0;
            made["start"] = Within(commented ? expression + "\n" : expression, "", options);
            made["whole"] = Within(commented ? expression + "\n" : expression, "\\z", options);
            known[key] = made;
            string names = "";
            foreach (int number in plain.GetGroupNumbers().Skip(1)) {
                string name = plain.GroupNameFromNumber(number);
                names += " " + (name == number.ToString() ? "x" : Coded(name));
            }
            Say("ok" + names);
        } catch (ArgumentException error) {
            string words = error.Message;
            string head = "parsing \"" + expression + "\" - ";
            if (words.StartsWith(head)) words = words.Substring(head.Length);
            Say("no -1 " + Coded(words.Split('\n')[0]));
        }
    }

    static void Matches(string key, string reach, int wanted, string text) {
        Regex regex = known[key][reach];
        int[] numbers = regex.GetGroupNumbers();
        StringBuilder line = new StringBuilder("is ");
        int found = 0;
        for (Match match = regex.Match(text); match.Success; match = match.NextMatch()) {
            if (found++ > 0) line.Append(';');
            for (int i = 0; i < numbers.Length; i++) {
                Group group = match.Groups[numbers[i]];
                if (i > 0) line.Append(',');
                line.Append(group.Success ? group.Index : -1).Append(',');
                line.Append(group.Success ? group.Index + group.Length : -1);
            }
            if (reach != "anywhere" || found == wanted) break;
        }
        Say(line.ToString());
    }

    public static void Run() {
        output = new StreamWriter(Console.OpenStandardOutput(), Encoding.ASCII);
        TextReader input = new StreamReader(Console.OpenStandardInput(), Encoding.ASCII);
        Say("ready " + Coded(".NET " + Environment.Version.Major + "." + Environment.Version.Minor + " of Mono") + " halves");
        for (string line; (line = input.ReadLine()) != null; ) {
            string[] words = line.Split(' ');
            if (words[0] == "c") Compile(words[1], words[2], Decoded(words[3]));
            else Matches(words[1], words[2], int.Parse(words[3]), Decoded(words[4]));
        }
    }
}

Side.Run();
