# What functions of ruby are made of; which of it one needs, `snippets.py` says.
# ---- converted
  # Converts a text; a mark that ends a sentence stays out of what it follows. Nil where it is no value.
  def self.converted(text)
    plain = text.sub(/[.,;:!?\u2026]\z/, "")
    found = yield(text)
    found.nil? && plain != text ? yield(plain) : found
  end
# ---- number
  def self.number(text, shape, group_mark, decimal_mark)
    return nil unless shape.match?(text)

    plain = group_mark.empty? ? text : text.gsub(group_mark, "")
    plain.sub(decimal_mark, ".").tr("\u2212", "-")
  end
# ---- integer
  def self.integer(text, shape, group_mark)
    plain = number(text, shape, group_mark, ".")
    plain && Integer(plain, 10)
  end
# ---- decimal
  def self.decimal(text, shape, group_mark, decimal_mark)
    plain = number(text, shape, group_mark, decimal_mark)
    plain && BigDecimal(plain.sub(/\A([+-]?)\./) { "#{Regexp.last_match(1)}0." })
  end
# ---- moment
  MONTHS = %w[jan feb mar apr may jun jul aug sep oct nov dec].freeze

  # Reads a moment; `roles` say what each capture of the shape is, `kind` which part of it is wanted.
  def self.moment(text, shape, roles, kind)
    match = shape.match(text) or return nil
    part = {}
    roles.each_char.with_index(1) { |role, at| part[role] = match[at] if match[at] }
    short = part["y"].to_i
    year = (part["Y"] || (part["y"] ? short + (short < 69 ? 2000 : 1900) : 1900)).to_i
    month = part["b"] ? MONTHS.index(part["b"][0, 3].downcase) + 1 : (part["m"] || 1).to_i
    day = (part["d"] || 1).to_i
    half = (part["I"] || 12).to_i
    hour = (part["H"] || half % 12 + (part["p"].to_s.downcase.start_with?("p") ? 12 : 0)).to_i
    minute, second = part["M"].to_i, part["S"].to_i
    sign, hours, minutes = part["z"].to_s.match(/\A([+-])(\d\d):?(\d\d)?\z/)&.captures
    holds = year >= 1 && Date.valid_date?(year, month, day) && month >= 1 && day >= 1 && half.between?(1, 12)
    return nil unless holds && hour < 24 && minute < 60 && second < 60 && hours.to_i < 24 && minutes.to_i < 60

    micros = part["f"].to_s.ljust(6, "0")[0, 6].to_i
    case kind
    when "date" then Date.new(year, month, day)
    when "time" then format("%02d:%02d:%02d", hour, minute, second) + (micros.zero? ? "" : format(".%06d", micros))
    else
      offset = (hours.to_i * 3600 + minutes.to_i * 60) * (sign == "-" ? -1 : 1)
      Time.new(year, month, day, hour, minute, second + Rational(micros, 1_000_000), offset)
    end
  end
# ---- offset
  def self.offset?(text, shape, roles)
    match = shape.match(text) || shape.match(text.chop)
    !match.nil? && !match[roles.index("z") + 1].nil?
  end
