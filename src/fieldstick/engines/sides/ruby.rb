# Speaks for Ruby's engine; see companion.py for the form of requests and answers.
$VERBOSE = nil
$stdout.sync = true
KNOWN = {}

def decoded(word) = [word[1..]].pack("H*").force_encoding("UTF-8")
def coded(text) = "x" + text.dup.force_encoding("BINARY").unpack1("H*")
def say(*words) = $stdout.write(words.join(" ") + "\n")

# `^` and `$` stand at every line always; what `m` stands for here is a dot that takes line feeds.
def made(expression, letters)
  bits = 0
  bits |= Regexp::IGNORECASE if letters.include?("i")
  bits |= Regexp::MULTILINE if letters.include?("s")
  bits |= Regexp::EXTENDED if letters.include?("x")
  Regexp.new((letters.include?("a") ? "(?a)" : "") + expression, bits)
end

def enclosed(before, expression, after, letters)
  made("#{before}(?:#{expression})#{after}", letters)
rescue RegexpError
  made("#{before}(?:#{expression}\n)#{after}", letters)
end

def compile(key, letters, expression)
  KNOWN[key] = {
    "anywhere" => made(expression, letters),
    "start" => enclosed('\A', expression, "", letters),
    "whole" => enclosed('\A', expression, '\z', letters),
  }
  names = Array.new(enclosed("", expression, "|", letters).match("").size - 1, "")
  KNOWN[key]["anywhere"].named_captures.each { |name, numbers| numbers.each { |number| names[number - 1] = name } }
  say("ok", *names.map { |name| coded(name) })
rescue RegexpError => error
  # "the rule: /the expression/"
  said = error.message
  place = said.index(": /")
  say("no", -1, coded(place ? said[0...place] : said))
end

# A place in bytes need not be counted from where the text begins; not every version tells those.
IN_BYTES = MatchData.method_defined?(:byteoffset)

def place(match, group)
  found = IN_BYTES ? match.byteoffset(group) : match.offset(group)
  found[0] ? found : [-1, -1]
end

def matches(key, reach, wanted, text)
  found = []
  text.scan(KNOWN[key][reach]) do
    match = $~
    found << (0...match.size).flat_map { |group| place(match, group) }
    break if reach != "anywhere" || found.size == wanted
  end
  say("is", found.map { |each| each.join(",") }.join(";"))
rescue StandardError, SystemStackError => error
  say("err", coded(error.message))
end

say("ready", coded("Ruby #{RUBY_VERSION}"), IN_BYTES ? "bytes" : "points")
while (line = $stdin.gets)
  word, *words = line.split
  if word == "c"
    compile(words[0], words[1], decoded(words[2]))
  else
    matches(words[0], words[1], words[2].to_i, decoded(words[3]))
  end
end
