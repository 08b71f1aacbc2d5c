# Speaks for Perl's engine; see companion.py for the form of requests and answers. Offsets count characters.
use strict;
use warnings;
no warnings qw(regexp);
use feature 'unicode_strings';

$| = 1;
my %known;

sub decoded { my $text = pack("H*", substr($_[0], 1)); utf8::decode($text); return $text; }
sub coded { my $text = $_[0]; utf8::encode($text); return "x" . unpack("H*", $text); }
sub say_it { print join(" ", @_), "\n"; }

# What holds code of Perl is refused: it would be run (no `use re 'eval'` here).
sub made {
    my ($expression, $letters) = @_;
    my $set = "^" . ($letters =~ /a/ ? "" : "u") . ($letters =~ s/-//r);
    return qr/(?$set)$expression/;
}

sub enclosed {
    my ($before, $expression, $after, $letters) = @_;
    my $made = eval { made("$before(?:$expression)$after", $letters) };
    return defined $made ? $made : made("$before(?:$expression\n)$after", $letters);
}

sub compile {
    my ($key, $letters, $expression) = @_;
    my $made = eval { made($expression, $letters) };
    if (!defined $made) {
        my $error = $@;
        my $place = -1;
        if ($error =~ m{^(.*?)(?: in regex)?; marked by <-- HERE in m/(.*?) <-- HERE }s) {
            # What stands before the mark, without the flags that were put before the expression.
            ($error, my $before) = ($1, $2);
            $place = length($before) - length($letters =~ s/-//r) - length($letters =~ /a/ ? "(?^)" : "(?^u)");
        }
        $error =~ s/ at \S+ line \d+.*//s;
        $error =~ s/ in regex(?:; marked by.*)?$//s;
        return say_it("no", $place, coded($error));
    }
    my $whole = eval { enclosed('\A', $expression, '\z', $letters) };
    return say_it("no", -1, coded("it cannot stand between anchors")) unless defined $whole;
    $known{$key} = {
        anywhere => $made,
        start => enclosed('\A', $expression, "", $letters),
        whole => $whole,
    };
    "" =~ enclosed("", $expression, "|", $letters);
    say_it("ok", ("x") x $#+);
}

sub matches {
    my ($key, $reach, $wanted, $text) = @_;
    my $made = $known{$key}{$reach};
    my @found;
    eval {
        while ($text =~ /$made/g) {
            push @found, join(",", map { my $start = $-[$_]; defined $start ? ($start, $+[$_]) : (-1, -1) } 0 .. $#+);
            last if $reach ne "anywhere" || ($wanted && @found == $wanted);
        }
        1;
    } or return say_it("err", coded($@));
    say_it("is", join(";", @found));
}

say_it("ready", coded("Perl " . substr("$^V", 1)), "points");
while (my $line = <STDIN>) {
    my ($word, @words) = split " ", $line;
    if ($word eq "c") { compile($words[0], $words[1], decoded($words[2])); }
    else { matches(@words[0, 1, 2], decoded($words[3])); }
}
