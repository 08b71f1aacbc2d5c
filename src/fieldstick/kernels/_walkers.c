/* Walkers: what is done to every line of a block of text, by tables that Python has made.
 *
 * Texts are UTF-8. A byte that belongs to no character is taken for U+DC80 to U+DCFF, as Python's surrogateescape has
 * it (PEP 383), so that every line can be walked. Places are offsets in bytes. No Python object is made for a line or a
 * cell, and other threads may run meanwhile.
 *
 * A table is a tuple (direct, starts, letters, next, into, acts, finals, leap_of, leaps, stride, slots, least):
 *   direct    uint16, the letter of each code point of the basic plane
 *   starts    uint32, where each run of code points of one letter begins; letters  uint16, its letter
 *   next      int32, `stride` entries a row: the row after a letter, times the stride; or one of the codes below
 *   into      uint16, as many entries: the register that takes the place before the letter, 0 for none
 *   acts      int32, records (target, finish, count, then count times register and source)
 *   finals    int32, `slots` entries a finish: register, NIL or HERE for each place that is told
 *   leap_of   int32, as many entries as `next`, or none: at each row's first entry, where its leap ends in `leaps`, in bytes;
 *             0 where it has none
 *   leaps     what `leaps` makes of the rest
 *   least     the fewest bytes of a text that fits
 * The last two letters of a row are a line feed that ends the text, and the end of the text.
 */
#define Py_LIMITED_API 0x030b0000
#define PY_SSIZE_T_CLEAN
#define _GNU_SOURCE
#include <Python.h>
#include <stdint.h>
#include <stdlib.h>
#include <string.h>
#if defined(__unix__) || defined(__APPLE__)
#include <errno.h>
#include <unistd.h>
#define MAY_READ
#endif
#ifdef __linux__
#include <fcntl.h>
#include <sys/syscall.h>
#define EXCHANGE 2 /* RENAME_EXCHANGE of renameat2(2) */
#endif
#ifdef __SSE2__
#include <emmintrin.h>
#endif
#if defined(__x86_64__) && defined(__GNUC__)
#include <immintrin.h>
#define MAY_MULTIPLY
#define MAY_BE_WIDE
#endif

#define UNKNOWN (-1)  /* next: not worked out yet */
#define DEAD (-2)     /* next: nothing that follows fits */
#define FIRST_ACT (-3) /* next: -3 - n stands for the record that begins at acts[n] */
#define NIL (-1)      /* a place that was not come to */
#define HERE (-2)     /* the place before the letter that is read */

#ifdef __GNUC__
#define ALWAYS_INLINE inline __attribute__((always_inline))
#else
#define ALWAYS_INLINE inline
#endif

#define MOST_REGISTERS 512
#define MOST_COLUMNS 1024

enum { DONE = 0, ASKS = 1, FULL = 2, TOO_MUCH = 3 };

#define MOST_LEAPT 16
#define MOST_NOTED 4

/* Bytes of ASCII that mostly lead on from a row, compared all at once: each is `first` or one of as many as `span` has after
 * it or, where `other` is 0xFF, none of these.
 */
typedef struct {
    uint8_t first[MOST_LEAPT], span[MOST_LEAPT], other[MOST_LEAPT];
    int32_t count, onward;      /* how many they are; the leap after them, as `leap_of` has it */
    int32_t least;              /* the fewest bytes that make a text fit from here on */
    int32_t after[MOST_LEAPT];  /* the row after each; the last one's again for those that are none */
    uint16_t into[MOST_NOTED];  /* the registers that take places, 0 for none, */
    uint8_t offset[MOST_NOTED]; /* and before which byte these are */
} Leap;

#define PARTS 9

typedef struct {
    Py_buffer held[PARTS];
    int count;
    const uint16_t *direct;
    const uint32_t *starts;
    const uint16_t *letters, *into;
    Py_ssize_t runs;
    const int32_t *next, *acts, *finals, *leap_of;
    const Leap *leaps;
    Py_ssize_t cells;
    int stride, slots, least;
} Table;

static void release_table(Table *table) {
    for (int each = 0; each < table->count; each++) PyBuffer_Release(&table->held[each]);
    table->count = 0;
}

static int hold_table(PyObject *given, Table *table) {
    PyObject *parts[PARTS];
    table->count = 0;
    if (!PyArg_ParseTuple(given, "OOOOOOOOOiii", &parts[0], &parts[1], &parts[2], &parts[3], &parts[4], &parts[5],
                          &parts[6], &parts[7], &parts[8], &table->stride, &table->slots, &table->least))
        return 0;
    for (int each = 0; each < PARTS; each++) {
        if (PyObject_GetBuffer(parts[each], &table->held[each], PyBUF_SIMPLE) < 0) {
            release_table(table);
            return 0;
        }
        table->count++;
    }
    table->direct = table->held[0].buf;
    table->starts = table->held[1].buf;
    table->letters = table->held[2].buf;
    table->runs = table->held[2].len / 2;
    table->next = table->held[3].buf;
    table->cells = table->held[3].len / 4;
    table->into = table->held[4].buf;
    table->acts = table->held[5].buf;
    table->finals = table->held[6].buf;
    table->leap_of = table->held[7].len ? table->held[7].buf : NULL;
    table->leaps = table->held[8].buf;
    if ((table->leap_of && table->held[7].len / 4 != table->cells) || table->held[0].len < 0x20000 || table->runs < 1 ||
        table->held[1].len / 4 < table->runs || table->stride < 3 ||
        table->cells < table->stride || table->held[4].len / 2 < table->cells || table->slots < 0 || table->slots > MOST_COLUMNS) {
        release_table(table);
        PyErr_SetString(PyExc_ValueError, "this is no table");
        return 0;
    }
    return 1;
}

/* Read a character; return its length in bytes. See RFC 3629, section 4, for which bytes make one. */
static inline int decoded(const uint8_t *at, const uint8_t *end, uint32_t *code) {
    uint32_t lead = at[0];
    Py_ssize_t left = end - at;
    if (lead < 0x80) {
        *code = lead;
        return 1;
    }
    if (lead >= 0xC2 && lead < 0xE0 && left >= 2 && (at[1] & 0xC0) == 0x80) {
        *code = (lead & 0x1F) << 6 | (at[1] & 0x3Fu);
        return 2;
    }
    if (lead >= 0xE0 && lead < 0xF0 && left >= 3 && (at[1] & 0xC0) == 0x80 && (at[2] & 0xC0) == 0x80) {
        uint32_t found = (lead & 0x0F) << 12 | (at[1] & 0x3Fu) << 6 | (at[2] & 0x3Fu);
        if (found >= 0x800 && (found < 0xD800 || found > 0xDFFF)) {
            *code = found;
            return 3;
        }
    }
    if (lead >= 0xF0 && lead < 0xF5 && left >= 4 && (at[1] & 0xC0) == 0x80 && (at[2] & 0xC0) == 0x80 &&
        (at[3] & 0xC0) == 0x80) {
        uint32_t found = (lead & 0x07) << 18 | (at[1] & 0x3Fu) << 12 | (at[2] & 0x3Fu) << 6 | (at[3] & 0x3Fu);
        if (found >= 0x10000 && found <= 0x10FFFF) {
            *code = found;
            return 4;
        }
    }
    *code = 0xDC00 + lead;
    return 1;
}

static inline uint32_t letter_of(const Table *table, uint32_t code) {
    if (code < 0x10000) return table->direct[code];
    Py_ssize_t low = 0, high = table->runs;
    while (high - low > 1) {
        Py_ssize_t middle = (low + high) / 2;
        if (table->starts[middle] <= code) low = middle;
        else high = middle;
    }
    return table->letters[low];
}

/* What came of a text: whether it fits, with which finish, where that was decided; or what the table lacks. */
typedef struct {
    int fits;
    int32_t finish, row, letter;
    const uint8_t *here;
} Outcome;

enum { UNFIT = 0, FITS = 1, LACKS = 2 };

/* Do what a record says. Return 0 when the text fits, its places not yet told; the registers stay as they were. */
static inline int acted(const Table *table, const int32_t *act, int32_t *registers, int32_t here, int32_t *row) {
    int32_t count = act[2];
    const int32_t *moves = act + 3;
    if (act[1] >= 0) return 0;
    int32_t kept[MOST_REGISTERS];
    for (int32_t each = 0; each < count; each++) {
        int32_t source = moves[2 * each + 1];
        kept[each] = source == HERE ? here : registers[source];
    }
    for (int32_t each = 0; each < count; each++) registers[moves[2 * each]] = kept[each];
    *row = act[0];
    return 1;
}

/* How many bytes at a place are those of a leap, one after the other; MOST_LEAPT bytes are looked at. */
static inline int passed_by(const Leap *leap, const uint8_t *at) {
#ifdef __SSE2__
    const __m128i bytes = _mm_loadu_si128((const __m128i *)at);
    const __m128i beyond = _mm_sub_epi8(bytes, _mm_loadu_si128((const __m128i *)leap->first));
    const __m128i within = _mm_cmpeq_epi8(_mm_min_epu8(beyond, _mm_loadu_si128((const __m128i *)leap->span)), beyond);
    const __m128i those = _mm_xor_si128(within, _mm_loadu_si128((const __m128i *)leap->other));
    return __builtin_ctz((~(unsigned)_mm_movemask_epi8(those) | (unsigned)_mm_movemask_epi8(bytes)) | 1u << MOST_LEAPT);
#else
    int count = 0;
    while (count < MOST_LEAPT && at[count] < 0x80 &&
           ((uint8_t)(at[count] - leap->first[count]) <= leap->span[count]) != !!leap->other[count])
        count++;
    return count;
#endif
}

/* Walk one text, `telling` the places that it notes; bytes up to the edge may be looked at. Only the last byte of a text may
 * be a line feed that is taken for the final one.
 */
static ALWAYS_INLINE void walk(const Table *table, const uint8_t *data, const uint8_t *at, const uint8_t *end,
                               const uint8_t *edge, int32_t *registers, int32_t row, const int telling, Outcome *found) {
    const int32_t *const leap_of = table->leap_of;
    const char *const leaps = (const char *)table->leaps;
    found->here = end;
    const int32_t *next = table->next;
    const uint16_t *into = table->into;
    const int stride = table->stride;
    int final = end > at && end[-1] == '\n';
    const uint8_t *last = final ? end - 1 : end;
    while (at < last) {
        uint32_t letter;
        int length = 1;
        for (int32_t leap_at = leap_of ? leap_of[row] : 0; leap_at && edge - at >= MOST_LEAPT;) {
            const Leap *leap = (const Leap *)(leaps + leap_at) - 1;
            const int32_t here = (int32_t)(at - data);
            if (end - at < leap->least) {
                found->fits = UNFIT;
                found->here = at;
                return;
            }
            int passed = passed_by(leap, at);
            if (passed == MOST_LEAPT && last - at >= leap->count) {
                for (int each = 0; telling && each < MOST_NOTED; each++)
                    registers[leap->into[each]] = here + leap->offset[each];
                row = leap->after[MOST_LEAPT - 1];
                at += leap->count;
                leap_at = leap->onward;
                continue;
            }
            if (passed > leap->count) passed = leap->count;
            if (passed > last - at) passed = (int)(last - at);
            for (int each = 0; telling && each < MOST_NOTED; each++)
                registers[leap->offset[each] < passed ? leap->into[each] : 0] = here + leap->offset[each];
            if (passed) row = leap->after[passed - 1];
            at += passed;
            break;
        }
        if (at == last) break;
        if (*at < 0x80) {
            letter = table->direct[*at];
        } else {
            uint32_t code;
            length = decoded(at, last, &code);
            letter = letter_of(table, code);
        }
        int32_t onward = next[row + letter];
        if (onward < 0) {
            if (onward == DEAD) {
                found->fits = UNFIT;
                found->here = at;
                return;
            }
            if (onward == UNKNOWN) {
                *found = (Outcome){LACKS, 0, row / stride, (int32_t)letter, at};
                return;
            }
            const int32_t *act = table->acts + (FIRST_ACT - onward);
            if (!acted(table, act, registers, (int32_t)(at - data), &row)) {
                *found = (Outcome){FITS, act[1], 0, 0, at};
                return;
            }
        } else {
            /* Written whether it matters or not: a choice here would be guessed wrong every other time. */
            if (telling) registers[into[row + letter]] = (int32_t)(at - data);
            row = onward;
        }
        at += length;
    }
    for (int step = final ? 0 : 1; step < 2; step++) {
        int32_t letter = stride - 2 + step;
        int32_t onward = next[row + letter];
        if (onward == DEAD) {
            found->fits = UNFIT;
            return;
        }
        if (onward == UNKNOWN) {
            *found = (Outcome){LACKS, 0, row / stride, letter, at};
            return;
        }
        if (onward >= 0) {
            if (telling) registers[into[row + letter]] = (int32_t)(at - data);
            row = onward;
        } else {
            const int32_t *act = table->acts + (FIRST_ACT - onward);
            if (!acted(table, act, registers, (int32_t)(at - data), &row)) {
                *found = (Outcome){FITS, act[1], 0, 0, at};
                return;
            }
        }
        at++;
    }
    found->fits = UNFIT;
}

static inline void tell_places(const Table *table, const Outcome *found, const uint8_t *data, const int32_t *registers,
                               int32_t *places) {
    const int32_t *final = table->finals + (Py_ssize_t)found->finish * table->slots;
    for (int slot = 0; slot < table->slots; slot++) {
        int32_t source = final[slot];
        places[slot] = source == HERE ? (int32_t)(found->here - data) : source == NIL ? -1 : registers[source];
    }
}

static inline const uint8_t *line_end(const uint8_t *at, const uint8_t *end) {
    const uint8_t *feed = memchr(at, '\n', end - at);
    return feed ? feed : end;
}

/* The end of a line's text: a carriage return before the line feed is none of it. */
static inline const uint8_t *text_end(const uint8_t *start, const uint8_t *feed, const uint8_t *end) {
    return feed < end && feed > start && feed[-1] == '\r' ? feed - 1 : feed;
}

/* Where the text of a line begins of which it is known where each ends, and how many bytes it has. */
static inline const uint8_t *line_at(const uint8_t *base, const uint8_t *edge, const int32_t *end, Py_ssize_t line, Py_ssize_t *size) {
    const uint8_t *at = base + (line ? end[line - 1] : 0), *feed = base + end[line] - (base[end[line] - 1] == '\n');
    *size = text_end(at, feed, edge) - at;
    return at;
}

/* Whether places follow one another up to `size`, line `number` beginning at `at`. */
static int are_ends(const Py_buffer *ends, Py_ssize_t number, Py_ssize_t at, Py_ssize_t size) {
    const int32_t *end = ends->buf;
    const Py_ssize_t lines = ends->len / 4;
    int sound = number >= 0 && number <= lines && at == (number ? end[number - 1] : 0) && size == (lines ? end[lines - 1] : 0);
    if (!sound || !lines) return sound;
    int32_t backwards = end[0] <= 0;
    for (Py_ssize_t line = 1; line < lines; line++) backwards |= end[line] <= end[line - 1];
    return !backwards;
}

#ifdef __SSE2__
/* Go on by sixty-four places at a time to those where the first byte of a text stands and its last one as far behind as it should,
 * until the text stands there; where that is not seen before fewer are left, return NULL, and where the last ones begin.
 */
static const uint8_t *place_by_16(const uint8_t **onward, const uint8_t *end, const uint8_t *sought, Py_ssize_t size) {
    const __m128i first = _mm_set1_epi8((char)sought[0]), last = _mm_set1_epi8((char)sought[size - 1]);
    const uint8_t *at = *onward;
    for (; end - at >= size + 63; at += 64) {
        __m128i here[4];
        for (int each = 0; each < 4; each++) {
            const __m128i *from = (const __m128i *)(at + 16 * each), *behind = (const __m128i *)(at + 16 * each + size - 1);
            here[each] = _mm_and_si128(_mm_cmpeq_epi8(_mm_loadu_si128(from), first),
                                       _mm_cmpeq_epi8(_mm_loadu_si128(behind), last));
        }
        if (!_mm_movemask_epi8(_mm_or_si128(_mm_or_si128(here[0], here[1]), _mm_or_si128(here[2], here[3])))) continue;
        uint64_t places = 0;
        for (int each = 0; each < 4; each++) places |= (uint64_t)(unsigned)_mm_movemask_epi8(here[each]) << 16 * each;
        for (; places; places &= places - 1) {
            const uint8_t *place = at + __builtin_ctzll(places);
            if (!memcmp(place, sought, size)) return place;
        }
    }
    *onward = at;
    return NULL;
}
#endif

#ifdef MAY_BE_WIDE
/* Whether the processor works on thirty-two bytes at a time. */
static int is_wide;

/* The same thirty-two at a time, a hundred and twenty-eight places in one turn. */
__attribute__((target("avx2"))) static const uint8_t *place_by_32(const uint8_t **onward, const uint8_t *end,
                                                                  const uint8_t *sought, Py_ssize_t size) {
    const __m256i first = _mm256_set1_epi8((char)sought[0]), last = _mm256_set1_epi8((char)sought[size - 1]);
    const uint8_t *at = *onward;
    for (; end - at >= size + 127; at += 128) {
        __m256i here[4];
        for (int each = 0; each < 4; each++) {
            const __m256i *from = (const __m256i *)(at + 32 * each), *behind = (const __m256i *)(at + 32 * each + size - 1);
            here[each] = _mm256_and_si256(_mm256_cmpeq_epi8(_mm256_loadu_si256(from), first),
                                          _mm256_cmpeq_epi8(_mm256_loadu_si256(behind), last));
        }
        const __m256i any = _mm256_or_si256(_mm256_or_si256(here[0], here[1]), _mm256_or_si256(here[2], here[3]));
        if (_mm256_testz_si256(any, any)) continue;
        for (int each = 0; each < 4; each++) {
            for (uint32_t places = (uint32_t)_mm256_movemask_epi8(here[each]); places; places &= places - 1) {
                const uint8_t *place = at + 32 * each + __builtin_ctz(places);
                if (!memcmp(place, sought, size)) return place;
            }
        }
    }
    *onward = at;
    return NULL;
}
#endif

/* The first place of a text in another; NULL where there is none. */
static const uint8_t *place_of(const uint8_t *at, const uint8_t *end, const uint8_t *sought, Py_ssize_t size) {
    const uint8_t *found = NULL;
#ifdef MAY_BE_WIDE
    if (is_wide && (found = place_by_32(&at, end, sought, size))) return found;
#endif
#ifdef __SSE2__
    if ((found = place_by_16(&at, end, sought, size))) return found;
#elif defined(__GLIBC__)
    return memmem(at, end - at, sought, size);
#endif
    for (; end - at >= size && (found = memchr(at, sought[0], end - at - size + 1)); at = found + 1)
        if (!memcmp(found, sought, size)) return found;
    return NULL;
}

/* The line, not before `line`, that ends behind a place. */
static Py_ssize_t line_around(const int32_t *end, Py_ssize_t line, Py_ssize_t lines, int32_t place) {
    Py_ssize_t stride = 1, after;
    while (line + stride < lines && end[line + stride - 1] <= place) {
        line += stride;
        stride *= 2;
    }
    for (after = line + stride < lines ? line + stride : lines; line + 1 < after;) {
        const Py_ssize_t middle = line + (after - line) / 2;
        if (end[middle - 1] <= place) line = middle;
        else after = middle;
    }
    return line;
}

/* What is looked for first in lines, of which it is known where each ends; none if it has no size. */
typedef struct {
    const uint8_t *sought;
    Py_ssize_t size, lines;
    const int32_t *end;
} Needle;

static Needle needle_of(const Py_buffer *sought, const Py_buffer *ends) {
    return (Needle){sought->buf, ends->buf ? sought->len : 0, ends->len / 4, ends->buf};
}

/* Go on to the next line that holds the needle, from the one that begins there on; past all of them where there is none. */
static void seek(const Needle *needle, const Py_buffer *data, Py_ssize_t *at, Py_ssize_t *number) {
    const uint8_t *base = data->buf, *hit = place_of(base + *at, base + data->len, needle->sought, needle->size);
    *number = hit ? line_around(needle->end, *number, needle->lines, (int32_t)(hit - base)) : needle->lines;
    *at = !hit ? data->len : *number ? needle->end[*number - 1] : 0;
}

#define HEAD 3 /* the number of the text, its start and its end */

PyDoc_STRVAR(read_doc,
"read(data, cells, table, first, at, number, out, count, needle, ends) -> (status, at, number, count, row, letter)\n\n"
"Walk the lines of data, or with cells (int32 pairs of start and end) those texts, from offset or cell `at` on, where\n"
"text `number` begins. A row is written to out (int32) for each that fits: its number, start and end, then its places.\n"
"ends is what `survey` tells of lines, or None; with it, lines without needle (bytes) are passed by, if that is given.\n"
"Status: 0 done, 1 the table lacks the entry at row and letter, 2 out is full.");

PyDoc_STRVAR(sort_doc,
"sort(data, cells, table, first, at, number, out, needle, ends) -> (status, at, number, count, row, letter)\n\n"
"As `read`, but write the finish of each text, -1 where it does not fit or is passed by, to out (int16, one a text).");

typedef struct {
    int status;
    Py_ssize_t at, number, count;
    int32_t row, letter;
} Progress;

static inline void over_texts(const Table *table, const Py_buffer *data, const Py_buffer *cells, int32_t first,
                              const Py_buffer *out, const Needle *needle, const int32_t *ends, int sorting,
                              Progress *progress) {
    int32_t registers[MOST_REGISTERS] = {0};
    Outcome found = {0, 0, 0, 0, NULL};
    const uint8_t *base = data->buf, *end = base + data->len;
    const int32_t *spans = cells->buf;
    Py_ssize_t texts = cells->buf ? cells->len / 8 : -1;
    Py_ssize_t width = HEAD + table->slots;
    Py_ssize_t room = sorting ? out->len / 2 : out->len / 4 / width;
    int32_t *rows = out->buf;
    int16_t *finishes = out->buf;
    Py_ssize_t at = progress->at, number = progress->number, count = progress->count;
    while (texts < 0 ? at < data->len : at < texts) {
        const uint8_t *start, *stop, *onward;
        if ((sorting ? number : count) >= room) {
            progress->status = FULL;
            break;
        }
        if (texts >= 0) {
            start = base + spans[2 * at];
            stop = base + spans[2 * at + 1];
            onward = NULL;
        } else {
            if (needle->size) {
                seek(needle, data, &at, &number);
                if (at == data->len) break;
            }
            start = base + at;
            if (ends) {
                onward = base + ends[number];
                onward -= onward[-1] == '\n';
            } else {
                onward = line_end(start, end);
            }
            stop = text_end(start, onward, end);
            onward += onward < end;
        }
        walk(table, base, start, stop, end, registers, first, !sorting, &found);
        if (found.fits == LACKS) {
            progress->status = ASKS;
            progress->row = found.row;
            progress->letter = found.letter;
            if (onward) at = start - base;
            break;
        }
        if (sorting) {
            finishes[number] = found.fits ? (int16_t)found.finish : -1;
        } else if (found.fits) {
            int32_t *row = rows + count * width;
            row[0] = (int32_t)number;
            row[1] = (int32_t)(start - base);
            row[2] = (int32_t)(stop - base);
            tell_places(table, &found, base, registers, row + HEAD);
            count++;
        }
        number++;
        at = onward ? onward - base : at + 1;
    }
    progress->at = at;
    progress->number = number;
    progress->count = count;
}

#define MOST_TURNS 32 /* times that a text may be gone over while its matches are looked for */
#define FEW_BYTES 65536

/* The letter of the character that ends before `at`. */
static uint32_t letter_before(const Table *table, const uint8_t *start, const uint8_t *at) {
    uint32_t code = 0;
    if (at[-1] < 0x80) return letter_of(table, at[-1]);
    for (int length = 2; length <= 4 && at - start >= length; length++)
        if (decoded(at - length, at, &code) == length) return letter_of(table, code);
    return letter_of(table, 0xDC00 + at[-1]);
}

PyDoc_STRVAR(read_all_doc,
"read_all(data, cells, table, first, restarts, at, number, out, count, needle, ends)\n"
"    -> (status, at, number, count, row, letter)\n\n"
"As `read`, but write a row for each match of a text, one after the other as they lie there. restarts (int32) has for each\n"
"letter the entry of the row that begins after it. No match may be empty. Status 3: texts would be gone over too often.");

static void over_matches(const Table *table, const Py_buffer *data, const Py_buffer *cells, int32_t first,
                         const Py_buffer *restarts, const Py_buffer *out, const Needle *needle, Progress *progress) {
    int32_t registers[MOST_REGISTERS] = {0};
    Outcome found = {0, 0, 0, 0, NULL};
    const uint8_t *base = data->buf, *end = base + data->len;
    const int32_t *spans = cells->buf, *restart = restarts->buf;
    const Py_ssize_t texts = cells->buf ? cells->len / 8 : -1, width = HEAD + table->slots;
    const Py_ssize_t room = out->len / 4 / width;
    int32_t *rows = out->buf;
    while (texts < 0 ? progress->at < data->len : progress->at < texts) {
        const uint8_t *start, *stop, *onward = NULL;
        if (texts >= 0) {
            start = base + spans[2 * progress->at];
            stop = base + spans[2 * progress->at + 1];
        } else {
            if (needle->size) {
                seek(needle, data, &progress->at, &progress->number);
                if (progress->at == data->len) break;
            }
            start = base + progress->at;
            onward = line_end(start, end);
            stop = text_end(start, onward, end);
            onward += onward < end;
        }
        Py_ssize_t count = progress->count, gone = 0;
        const uint8_t *from = start;
        int32_t row = first;
        while (1) {
            walk(table, base, from, stop, end, registers, row, 1, &found);
            if (found.fits == LACKS) {
                progress->status = ASKS;
                progress->row = found.row;
                progress->letter = found.letter;
                return;
            }
            if (!found.fits) break;
            gone += found.here - from;
            if (count >= room || gone > MOST_TURNS * (stop - start) + FEW_BYTES) {
                progress->status = count >= room ? FULL : TOO_MUCH;
                return;
            }
            int32_t *written = rows + count * width;
            written[0] = (int32_t)progress->number;
            written[1] = (int32_t)(start - base);
            written[2] = (int32_t)(stop - base);
            tell_places(table, &found, base, registers, written + HEAD);
            const uint8_t *after = base + written[HEAD + 1];
            if (after <= from || after > stop) {
                progress->status = TOO_MUCH;
                return;
            }
            count++;
            from = after;
            row = restart[letter_before(table, start, from)];
        }
        progress->count = count;
        progress->number++;
        progress->at = onward ? onward - base : progress->at + 1;
    }
}

/* What is walked, and by what. */
typedef struct {
    Py_buffer data, cells, out, sought, ends, restarts;
    Table table;
} Walked;

static void release_walked(Walked *walked) {
    Py_buffer *held[] = {&walked->data, &walked->cells, &walked->out, &walked->sought, &walked->ends, &walked->restarts};
    release_table(&walked->table);
    for (int each = 0; each < 6; each++)
        if (held[each]->obj) PyBuffer_Release(held[each]);
}

static int may_hold(PyObject *given, Py_buffer *held) { return given == Py_None || PyObject_GetBuffer(given, held, PyBUF_SIMPLE) == 0; }

/* Hold what a walk is called with, and tell whether that can be walked; sets an error otherwise. */
static int hold_walked(PyObject *data, PyObject *cells, PyObject *table, PyObject *out, PyObject *sought, PyObject *ends, int first,
                       const Progress *progress, Walked *walked) {
    memset(walked, 0, sizeof *walked);
    if (PyObject_GetBuffer(data, &walked->data, PyBUF_SIMPLE) < 0 || PyObject_GetBuffer(out, &walked->out, PyBUF_WRITABLE) < 0 ||
        !may_hold(cells, &walked->cells) || !may_hold(sought, &walked->sought) ||
        !may_hold(cells == Py_None ? ends : Py_None, &walked->ends) || !hold_table(table, &walked->table))
        return 0;
    if ((walked->ends.buf && !are_ends(&walked->ends, progress->number, progress->at, walked->data.len)) ||
        walked->data.len > INT32_MAX || first < 0 || first + walked->table.stride > walked->table.cells || progress->at < 0 ||
        progress->count < 0 || progress->number < 0) {
        PyErr_SetString(PyExc_ValueError, "a block of text is too long, or the walk begins nowhere");
        return 0;
    }
    return 1;
}

static PyObject *told_of_progress(const Progress *progress) {
    return Py_BuildValue("innnii", progress->status, progress->at, progress->number, progress->count, progress->row, progress->letter);
}

static PyObject *read_all(PyObject *module, PyObject *arguments) {
    PyObject *data, *cells, *table, *restarts, *out, *sought, *ends, *told = NULL;
    Walked walked;
    Progress progress = {DONE, 0, 0, 0, 0, 0};
    int first;
    if (!PyArg_ParseTuple(arguments, "OOOiOnnOnOO", &data, &cells, &table, &first, &restarts, &progress.at, &progress.number, &out,
                          &progress.count, &sought, &ends))
        return NULL;
    int fine = hold_walked(data, cells, table, out, sought, ends, first, &progress, &walked) &&
               PyObject_GetBuffer(restarts, &walked.restarts, PyBUF_SIMPLE) == 0;
    if (fine) {
        const int32_t *row = walked.restarts.buf;
        fine = walked.restarts.len / 4 >= walked.table.stride - 2 && walked.table.slots >= 2;
        for (int letter = 0; fine && letter < walked.table.stride - 2; letter++)
            fine = row[letter] >= 0 && row[letter] + walked.table.stride <= walked.table.cells;
        if (!fine) PyErr_SetString(PyExc_ValueError, "a walk that goes on nowhere");
    }
    if (fine) {
        const Needle needle = needle_of(&walked.sought, &walked.ends);
        Py_BEGIN_ALLOW_THREADS
        over_matches(&walked.table, &walked.data, &walked.cells, first, &walked.restarts, &walked.out, &needle, &progress);
        Py_END_ALLOW_THREADS
        told = told_of_progress(&progress);
    }
    release_walked(&walked);
    return told;
}

static PyObject *over(PyObject *arguments, int sorting) {
    PyObject *data, *cells, *table, *out, *sought, *ends, *told = NULL;
    Walked walked;
    Progress progress = {DONE, 0, 0, 0, 0, 0};
    int first;
    if (sorting) {
        if (!PyArg_ParseTuple(arguments, "OOOinnOOO", &data, &cells, &table, &first, &progress.at, &progress.number, &out, &sought,
                              &ends))
            return NULL;
    } else if (!PyArg_ParseTuple(arguments, "OOOinnOnOO", &data, &cells, &table, &first, &progress.at, &progress.number, &out,
                                 &progress.count, &sought, &ends)) {
        return NULL;
    }
    if (hold_walked(data, cells, table, out, sought, ends, first, &progress, &walked)) {
        const Needle needle = needle_of(&walked.sought, &walked.ends);
        const int32_t *line_ends = walked.ends.buf;
        Py_BEGIN_ALLOW_THREADS
        const Py_ssize_t sorted = 2 * progress.number;
        /* Lines that are passed by fit nothing. */
        if (sorting && needle.size && sorted < walked.out.len) memset((char *)walked.out.buf + sorted, 0xFF, walked.out.len - sorted);
        if (sorting) over_texts(&walked.table, &walked.data, &walked.cells, first, &walked.out, &needle, line_ends, 1, &progress);
        else over_texts(&walked.table, &walked.data, &walked.cells, first, &walked.out, &needle, line_ends, 0, &progress);
        Py_END_ALLOW_THREADS
        told = told_of_progress(&progress);
    }
    release_walked(&walked);
    return told;
}

static PyObject *read_texts(PyObject *module, PyObject *arguments) { return over(arguments, 0); }

static PyObject *sort_texts(PyObject *module, PyObject *arguments) { return over(arguments, 1); }

/* The first byte beyond ASCII, or the end. */
static const uint8_t *beyond_ascii(const uint8_t *at, const uint8_t *end) {
    while (end - at >= 8) {
        uint64_t eight;
        memcpy(&eight, at, 8);
        if (eight & UINT64_C(0x8080808080808080)) break;
        at += 8;
    }
    while (at < end && *at < 0x80) at++;
    return at;
}

/* Write the places after each line feed to `ends`, and that after a last line without one; return how many they are. `ends` has
 * room for one more than there are bytes. Before the place `plain` no byte is beyond ASCII; `returns` lines end with CR LF.
 */
static Py_ssize_t find_ends(const uint8_t *base, Py_ssize_t size, int32_t *ends, Py_ssize_t *plain, Py_ssize_t *returns) {
    Py_ssize_t count = 0, at = 0, returned = 0;
    *plain = 0;
#ifdef __SSE2__
    const __m128i feeds = _mm_set1_epi8('\n'), carriages = _mm_set1_epi8('\r');
    uint64_t carried = 0;
    for (; size - at >= 64; at += 64) {
        uint64_t found = 0;
        __m128i all = _mm_setzero_si128(), returning = all, part[4];
        for (int each = 0; each < 4; each++) {
            part[each] = _mm_loadu_si128((const __m128i *)(base + at + 16 * each));
            found |= (uint64_t)(unsigned)_mm_movemask_epi8(_mm_cmpeq_epi8(part[each], feeds)) << 16 * each;
            all = _mm_or_si128(all, part[each]);
            returning = _mm_or_si128(returning, _mm_cmpeq_epi8(part[each], carriages));
        }
        if (!_mm_movemask_epi8(all) && *plain == at) *plain = at + 64;
        if (carried || _mm_movemask_epi8(returning)) {
            uint64_t before = 0;
            for (int each = 0; each < 4; each++)
                before |= (uint64_t)(unsigned)_mm_movemask_epi8(_mm_cmpeq_epi8(part[each], carriages)) << 16 * each;
            returned += __builtin_popcountll(found & (before << 1 | carried));
            carried = before >> 63;
        }
        /* Whether one or two lines end here cannot be foreseen: two places are written, and those that are none written over. */
        for (int each = 0; each < 2; each++) {
            ends[count] = (int32_t)at + __builtin_ctzll(found | UINT64_C(1) << 63) + 1;
            count += found != 0;
            found &= found - 1;
        }
        for (; found; found &= found - 1) ends[count++] = (int32_t)at + __builtin_ctzll(found) + 1;
    }
#endif
    for (const uint8_t *feed; at < size && (feed = memchr(base + at, '\n', size - at)); at = feed + 1 - base) {
        returned += feed > base && feed[-1] == '\r';
        ends[count++] = (int32_t)(feed + 1 - base);
    }
    if (size && base[size - 1] != '\n') ends[count++] = (int32_t)size;
    *returns = returned;
    return count;
}

/* Numbers of lines of which something is to be said: how many there are, and the first ones. */
typedef struct {
    long *numbers;
    Py_ssize_t count, most;
} Noted;

static int may_note(Noted *noted, Py_ssize_t most) {
    noted->count = 0;
    noted->most = most > 0 ? most : 0;
    noted->numbers = PyMem_Malloc((noted->most + 1) * sizeof(long));
    return noted->numbers != NULL;
}

static void note(Noted *noted, long number) {
    if (noted->count < noted->most) noted->numbers[noted->count] = number;
    noted->count++;
}

static PyObject *numbers_of(const Noted *noted) {
    PyObject *found = PyList_New(0);
    for (Py_ssize_t each = 0; found && each < noted->count && each < noted->most; each++) {
        PyObject *number = PyLong_FromLong(noted->numbers[each]);
        if (!number || PyList_Append(found, number) < 0) {
            Py_DECREF(found);
            found = NULL;
        }
        Py_XDECREF(number);
    }
    return found;
}

/* What was seen in lines. */
typedef struct {
    Py_ssize_t lines, returns, longest;
    int ascii;
    int32_t *ends;
    Noted broken;
} Survey;

static void forget(Survey *seen) {
    PyMem_Free(seen->ends);
    PyMem_Free(seen->broken.numbers);
}

static int may_look(Survey *seen, Py_ssize_t size, Py_ssize_t most) {
    memset(seen, 0, sizeof *seen);
    seen->ends = size <= INT32_MAX ? PyMem_Malloc(4 * (size + 1)) : NULL;
    if (may_note(&seen->broken, most) && seen->ends) return 1;
    forget(seen);
    PyErr_NoMemory();
    return 0;
}

/* Note the lines that hold bytes which are no UTF-8, of which the first that is beyond ASCII is `odd`. */
static void look_for_broken(const uint8_t *start, const uint8_t *odd, const uint8_t *end, Survey *seen) {
    for (Py_ssize_t line = 0; odd < end && line < seen->lines; line++) {
        const uint8_t *feed = start + seen->ends[line];
        feed -= feed[-1] == '\n';
        int is_broken = 0;
        while (odd < feed) {
            uint32_t code;
            int length = decoded(odd, feed, &code);
            if (length == 1 && code >= 0xDC80) {
                is_broken = 1;
                odd = feed;
            } else {
                odd = beyond_ascii(odd + length, end);
            }
        }
        if (is_broken) {
            odd = beyond_ascii(feed, end);
            note(&seen->broken, (long)line);
        }
    }
}

static void look_at(const uint8_t *start, Py_ssize_t size, Survey *seen) {
    Py_ssize_t plain;
    const Py_ssize_t count = find_ends(start, size, seen->ends, &plain, &seen->returns);
    const uint8_t *odd = beyond_ascii(start + plain, start + size);
    const int is_cut = count && start[size - 1] != '\n';
    int32_t longest = 0, before = 0;
    for (Py_ssize_t line = 0; line < count - is_cut; line++) {
        const int32_t length = seen->ends[line] - before - 1;
        before = seen->ends[line];
        longest = length > longest ? length : longest;
    }
    if (is_cut && size - before > longest) longest = (int32_t)(size - before);
    seen->longest = longest;
    seen->lines = count;
    seen->ascii = odd == start + size;
    look_for_broken(start, odd, start + size, seen);
}

static PyObject *told_of(const Survey *seen) {
    PyObject *ends = PyBytes_FromStringAndSize((const char *)seen->ends, 4 * seen->lines);
    PyObject *numbers = numbers_of(&seen->broken);
    if (ends && numbers)
        return Py_BuildValue("nnnNnNN", seen->lines, seen->returns, seen->longest, PyBool_FromLong(seen->ascii),
                             seen->broken.count, numbers, ends);
    Py_XDECREF(ends);
    Py_XDECREF(numbers);
    return NULL;
}

PyDoc_STRVAR(survey_doc,
"survey(data, most) -> (lines, returns, longest, ascii, broken, numbers, ends)\n\n"
"Count the lines of data and those ended by CR LF, and tell the bytes of the longest, whether all is ASCII, how many lines\n"
"hold bytes that are no UTF-8, the numbers (from 0) of the first `most` of these, and where each line ends (int32), its\n"
"line end included.");

static PyObject *survey(PyObject *module, PyObject *arguments) {
    Py_buffer data;
    Py_ssize_t most;
    Survey seen;
    PyObject *told = NULL;
    if (!PyArg_ParseTuple(arguments, "y*n", &data, &most)) return NULL;
    if (may_look(&seen, data.len, most)) {
        Py_BEGIN_ALLOW_THREADS
        look_at(data.buf, data.len, &seen);
        Py_END_ALLOW_THREADS
        told = told_of(&seen);
        forget(&seen);
    }
    PyBuffer_Release(&data);
    return told;
}

PyDoc_STRVAR(cut_doc,
"cut(rest, chunk, most) -> (lines, left, surveyed) or None\n\n"
"Cut what follows a rest behind its last line feed; None where it has none. surveyed is what `survey` says of the lines.");

static PyObject *cut(PyObject *module, PyObject *arguments) {
    Py_buffer rest, chunk;
    Py_ssize_t most;
    Survey seen;
    PyObject *lines = NULL, *left = NULL, *told = NULL;
    if (!PyArg_ParseTuple(arguments, "y*y*n", &rest, &chunk, &most)) return NULL;
    const char *base = chunk.buf;
    Py_ssize_t at = chunk.len;
    while (at && base[at - 1] != '\n') at--;
    const Py_ssize_t size = rest.len + at;
    if (!at) {
        told = Py_None;
        Py_INCREF(told);
    } else if (may_look(&seen, size, most)) {
        lines = PyBytes_FromStringAndSize(NULL, size);
        left = PyBytes_FromStringAndSize(base + at, chunk.len - at);
        if (lines && left) {
            char *start = PyBytes_AsString(lines);
            Py_BEGIN_ALLOW_THREADS
            memcpy(start, rest.buf, rest.len);
            memcpy(start + rest.len, base, at);
            look_at((const uint8_t *)start, size, &seen);
            Py_END_ALLOW_THREADS
            told = told_of(&seen);
        }
        forget(&seen);
    }
    PyBuffer_Release(&rest);
    PyBuffer_Release(&chunk);
    if (told && lines) return Py_BuildValue("NNN", lines, left, told);
    Py_XDECREF(lines);
    Py_XDECREF(left);
    return told;
}

/* What is written grows as it needs to. */
typedef struct {
    char *start, *at, *end;
    int failed;
} Text;

static int has_room(Text *text, Py_ssize_t more) {
    if (text->end - text->at >= more) return 1;
    Py_ssize_t used = text->at - text->start, size = (text->end - text->start) * 2 + more;
    char *grown = realloc(text->start, size);
    if (!grown) {
        text->failed = 1;
        return 0;
    }
    text->start = grown;
    text->at = grown + used;
    text->end = grown + size;
    return 1;
}

static inline void put(Text *text, const void *bytes, Py_ssize_t count) {
    if (count && has_room(text, count)) {
        memcpy(text->at, bytes, count);
        text->at += count;
    }
}

/* What is seen in lines at a glance: how many they are, whether all is ASCII, and whether there is a carriage return. */
typedef struct {
    Py_ssize_t lines;
    int ascii, returns;
} Glance;

#ifdef MAY_BE_WIDE
enum { MOST_TOLD = 255 };

/* Look thirty-two bytes at a time; return where fewer are left. Lines are counted in bytes, as many turns as these hold. */
__attribute__((target("avx2"))) static const uint8_t *glance_by_32(const uint8_t *at, const uint8_t *end, Glance *seen) {
    const __m256i feeds = _mm256_set1_epi8('\n'), carriages = _mm256_set1_epi8('\r'), none = _mm256_setzero_si256();
    __m256i all = none, returning = none, lines = none;
    while (end - at >= 32) {
        __m256i counts = none;
        for (int turn = 0; turn < MOST_TOLD && end - at >= 32; turn++, at += 32) {
            const __m256i part = _mm256_loadu_si256((const __m256i *)at);
            counts = _mm256_sub_epi8(counts, _mm256_cmpeq_epi8(part, feeds));
            returning = _mm256_or_si256(returning, _mm256_cmpeq_epi8(part, carriages));
            all = _mm256_or_si256(all, part);
        }
        lines = _mm256_add_epi64(lines, _mm256_sad_epu8(counts, none));
    }
    long long sums[4];
    _mm256_storeu_si256((__m256i *)sums, lines);
    seen->lines += sums[0] + sums[1] + sums[2] + sums[3];
    seen->ascii &= !_mm256_movemask_epi8(all);
    seen->returns |= !_mm256_testz_si256(returning, returning);
    return at;
}
#endif

static Glance glance_at(const uint8_t *at, const uint8_t *end) {
    Glance seen = {0, 1, 0};
#ifdef MAY_BE_WIDE
    if (is_wide) at = glance_by_32(at, end, &seen);
#endif
    uint8_t all = 0;
    int returns = 0;
    Py_ssize_t lines = 0;
    for (; at < end; at++) {
        lines += *at == '\n';
        returns |= *at == '\r';
        all |= *at;
    }
    seen.lines += lines;
    seen.ascii &= all < 0x80;
    seen.returns |= returns;
    return seen;
}

#ifdef MAY_READ
/* Read so many bytes from a place on; return how many there are, -1 for an error. */
static Py_ssize_t read_at(int file, char *into, Py_ssize_t size, off_t place) {
    Py_ssize_t come = 0;
    while (come < size) {
        const ssize_t more = pread(file, into + come, size - come, place + come);
        if (more < 0 && errno == EINTR) continue;
        if (more < 0) return -1;
        if (!more) break;
        come += more;
    }
    return come;
}

PyDoc_STRVAR(pick_doc,
"pick(file, place, size, table, needle, unfit, giving) -> (lines, fit, returns, picked) or None\n\n"
"Read lines of an open file, size bytes from a place on, and pick those that fit, or with unfit the others, where few hold the\n"
"needle, which every line that fits holds: how many lines there are, fit and end with CR LF, and if giving, those picked as\n"
"they stand, else none. None where they are not whole lines, not all ASCII, or too long for a few to be held at a time, or where\n"
"the table lacks an entry: nothing is lost by it. Raises OSError.");

enum { HELD_AT_ONCE = 1 << 16 };

/* What is picked of lines that are read few at a time, so that they never leave the processor's cache. */
typedef struct {
    const Table *table;
    const Py_buffer *sought;
    int unfit, giving;
    Py_ssize_t lines, fit, returns;
    Text picked;
} Picking;

/* Where the line that holds a place begins, none before `from`. */
static const uint8_t *line_start(const uint8_t *from, const uint8_t *at) {
    while (at > from && at[-1] != '\n') at--;
    return at;
}

/* Pick of whole lines; tell whether all is known that is needed. */
static int pick_of(Picking *picking, const uint8_t *base, const uint8_t *end) {
    int32_t registers[MOST_REGISTERS] = {0};
    Outcome found = {0, 0, 0, 0, NULL};
    const Glance seen = glance_at(base, end);
    const uint8_t *at = base, *kept = base, *hit;
    if (!seen.ascii) return 0;
    picking->lines += seen.lines;
    for (const uint8_t *mark = base; seen.returns && (mark = memchr(mark, '\r', end - mark)); mark++)
        picking->returns += mark + 1 < end && mark[1] == '\n';
    while ((hit = place_of(at, end, picking->sought->buf, picking->sought->len))) {
        const uint8_t *start = line_start(at, hit), *feed = line_end(hit, end);
        walk(picking->table, base, start, text_end(start, feed, end), end, registers, 0, 0, &found);
        if (found.fits == LACKS) return 0;
        at = feed + 1;
        if (!found.fits) continue;
        picking->fit++;
        if (picking->giving && picking->unfit) put(&picking->picked, kept, start - kept);
        else if (picking->giving) put(&picking->picked, start, at - start);
        kept = at;
    }
    if (picking->giving && picking->unfit) put(&picking->picked, kept, end - kept);
    return !picking->picked.failed;
}

/* Read lines and pick of them; return 0 where that cannot be done so, -1 for an error of the system. */
static int pick_from(Picking *picking, int file, off_t place, Py_ssize_t size, uint8_t *held) {
    Py_ssize_t left = 0; /* bytes of a line that goes on behind what is held */
    while (size) {
        const Py_ssize_t asked = size < HELD_AT_ONCE - left ? size : HELD_AT_ONCE - left;
        const Py_ssize_t come = asked ? read_at(file, (char *)held + left, asked, place) : 0;
        if (come < asked) return come < 0 ? -1 : 0;
        if (!come) return 0;
        place += come;
        size -= come;
        const uint8_t *end = held + left + come, *cut = line_start(held, end);
        if (!pick_of(picking, held, cut)) return 0;
        left = end - cut;
        memmove(held, cut, left);
    }
    return !left;
}

static PyObject *pick(PyObject *module, PyObject *arguments) {
    int file, came = 0;
    long long place;
    Py_ssize_t size;
    PyObject *given, *told = NULL;
    Py_buffer sought;
    Table table;
    Picking picking = {&table, &sought, 0, 0, 0, 0, 0, {NULL, NULL, NULL, 0}};
    if (!PyArg_ParseTuple(arguments, "iLnOy*pp", &file, &place, &size, &given, &sought, &picking.unfit, &picking.giving)) return NULL;
    uint8_t *held = malloc(HELD_AT_ONCE);
    if (place < 0 || size < 0 || !sought.len || memchr(sought.buf, '\n', sought.len)) {
        PyErr_SetString(PyExc_ValueError, "no lines, or nothing that lies in one");
    } else if (!held) {
        PyErr_NoMemory();
    } else if (hold_table(given, &table)) {
        Py_BEGIN_ALLOW_THREADS
        came = pick_from(&picking, file, place, size, held);
        Py_END_ALLOW_THREADS
        if (came < 0) PyErr_SetFromErrno(PyExc_OSError);
        else if (picking.picked.failed) PyErr_NoMemory();
        else if (!came) told = (Py_INCREF(Py_None), Py_None);
        else
            told = Py_BuildValue("nnny#", picking.lines, picking.fit, picking.returns, picking.picked.start ? picking.picked.start : "",
                                 picking.picked.at - picking.picked.start);
        release_table(&table);
    }
    free(picking.picked.start);
    free(held);
    PyBuffer_Release(&sought);
    return told;
}

PyDoc_STRVAR(read_block_doc,
"read_block(file, place, size, most) -> (data, surveyed)\n\n"
"Read size bytes of an open file from a place on, fewer where it ends, and tell what `survey` says of them. Raises OSError.");

static PyObject *read_block(PyObject *module, PyObject *arguments) {
    int file;
    long long place;
    Py_ssize_t size, most, come;
    Survey seen;
    if (!PyArg_ParseTuple(arguments, "iLnn", &file, &place, &size, &most)) return NULL;
    if (size < 0 || place < 0) {
        PyErr_SetString(PyExc_ValueError, "a block that is nowhere");
        return NULL;
    }
    PyObject *data = PyBytes_FromStringAndSize(NULL, size), *told = NULL;
    if (!data || !may_look(&seen, size, most)) {
        Py_XDECREF(data);
        return NULL;
    }
    char *start = PyBytes_AsString(data);
    Py_BEGIN_ALLOW_THREADS
    come = read_at(file, start, size, place);
    if (come >= 0) look_at((const uint8_t *)start, come, &seen);
    Py_END_ALLOW_THREADS
    if (come < 0) {
        PyErr_SetFromErrno(PyExc_OSError);
    } else if (come < size) {
        PyObject *all = data;
        data = PyBytes_FromStringAndSize(start, come);
        Py_DECREF(all);
    }
    if (come >= 0 && data) told = told_of(&seen);
    forget(&seen);
    if (told) return Py_BuildValue("NN", data, told);
    Py_XDECREF(data);
    return NULL;
}
#endif

PyDoc_STRVAR(gather_doc,
"gather(data, raws, finishes, heap_of, heaps, ends) -> list of bytes\n\n"
"Put the lines of data, each with its end, on heaps by their finishes (int16, one a line): heap_of (int32) tells the heap\n"
"of finish n at n + 1, -1 for none. With raws (int32 pairs of start and end) rows take the place of lines. A last one without\n"
"a line end is given a line feed. ends is what `survey` tells of lines, or None.");

/* Bytes of a line that are copied at once, needed or not: what follows is written over them. */
enum { AT_ONCE = 96 };

/* A heap on its way: where the next line goes, and where it ends. */
typedef struct {
    char *at, *end;
} Heap;

/* Lines of text, or rows at pairs of start and end. Of lines only the last may lack a line feed at its end. */
typedef struct {
    const char *base;
    Py_ssize_t size, count;
    const int32_t *rows, *ends;
    int last_is_cut;
} Lines;

static inline Py_ssize_t starts_at(const Lines *lines, Py_ssize_t line) {
    return lines->rows ? lines->rows[2 * line] : line ? lines->ends[line - 1] : 0;
}

static inline Py_ssize_t stops_at(const Lines *lines, Py_ssize_t line) {
    return lines->rows ? lines->rows[2 * line + 1] : lines->ends[line];
}

static inline int lacks_feed(const Lines *lines, Py_ssize_t line, Py_ssize_t start, Py_ssize_t stop) {
    if (lines->rows) return stop > start && lines->base[stop - 1] != '\n';
    return lines->last_is_cut && line == lines->count - 1;
}

enum { AT_A_TIME = 8 };

/* Whether the next lines, more of them following, are of no finish. */
static inline int are_none(const int16_t *finish, Py_ssize_t left) {
    uint64_t eight[2];
    if (left <= AT_A_TIME) return 0;
    memcpy(eight, finish, sizeof eight);
    return (eight[0] & eight[1]) == UINT64_MAX;
}

/* List the lines that are for a heap, and add up what each heap takes. Which lines are chosen cannot be foreseen: there is no
 * branch on it but for many in a row that are not. Returns how many they are, -1 where a finish has no heap.
 */
static Py_ssize_t choose(const Lines *given, const int16_t *finish, const int32_t *heap_of, Py_ssize_t known, int heaps,
                         Py_ssize_t *sizes, int32_t *chosen) {
    const Lines lines = *given;
    Py_ssize_t count = 0, start = 0;
    const int passes = known && heap_of[0] < 0; /* what has no finish has no heap */
    for (Py_ssize_t line = 0; line < lines.count; line++) {
        if (passes && are_none(finish + line, lines.count - line)) {
            for (line += AT_A_TIME; are_none(finish + line, lines.count - line); line += AT_A_TIME) continue;
            start = starts_at(&lines, line);
        }
        const int next = finish[line] + 1;
        if (next < 0 || next >= known) return -1;
        const int32_t heap = heap_of[next];
        const Py_ssize_t stop = stops_at(&lines, line);
        if (lines.rows) start = starts_at(&lines, line);
        sizes[heap < 0 ? heaps : heap] += stop - start + lacks_feed(&lines, line, start, stop);
        chosen[count] = (int32_t)line;
        count += heap >= 0;
        start = stop;
    }
    return count;
}

static void put_on_heaps(const Lines *given, const int32_t *chosen, Py_ssize_t count, const int16_t *finish,
                         const int32_t *heap_of, Heap *heaps) {
    const Lines lines = *given;
    for (Py_ssize_t each = 0; each < count; each++) {
        const Py_ssize_t line = chosen[each], start = starts_at(&lines, line), stop = stops_at(&lines, line);
        const Py_ssize_t length = stop - start;
        Heap *heap = heaps + heap_of[finish[line] + 1];
        char *at = heap->at;
        if (length <= AT_ONCE && heap->end - at >= AT_ONCE && lines.size - start >= AT_ONCE)
            memcpy(at, lines.base + start, AT_ONCE);
        else
            memcpy(at, lines.base + start, length);
        at += length;
        if (lacks_feed(&lines, line, start, stop)) *at++ = '\n';
        heap->at = at;
    }
}

static PyObject *gather(PyObject *module, PyObject *arguments) {
    Py_buffer data, finishes, heap_of, row_places = {0}, line_ends = {0};
    PyObject *rows_given, *ends_given;
    int heaps;
    if (!PyArg_ParseTuple(arguments, "y*Oy*y*iO", &data, &rows_given, &finishes, &heap_of, &heaps, &ends_given)) return NULL;
    PyObject *found = NULL;
    int32_t *own_ends = NULL, *chosen = NULL;
    Heap *heap = heaps >= 0 ? PyMem_Calloc(heaps + 1, sizeof(Heap)) : NULL;
    Py_ssize_t *sizes = heaps >= 0 ? PyMem_Calloc(heaps + 1, sizeof(Py_ssize_t)) : NULL;
    const char *base = data.buf;
    const int16_t *finish = finishes.buf;
    const int32_t *place = heap_of.buf;
    const Py_ssize_t known = heap_of.len / 4;
    Py_ssize_t lines = finishes.len / 2, count = 0;
    int fine = 0;
    if (!heap || !sizes) {
        PyErr_NoMemory();
        goto end;
    }
    if ((rows_given != Py_None && PyObject_GetBuffer(rows_given, &row_places, PyBUF_SIMPLE) < 0) ||
        (ends_given != Py_None && PyObject_GetBuffer(ends_given, &line_ends, PyBUF_SIMPLE) < 0))
        goto end;
    const int32_t *rows = row_places.buf, *ends = line_ends.buf;
    for (Py_ssize_t line = 0; rows && line < lines; line++) {
        if (line >= row_places.len / 8 || rows[2 * line] < 0 || rows[2 * line + 1] < rows[2 * line] ||
            rows[2 * line + 1] > data.len) {
            PyErr_SetString(PyExc_ValueError, "rows that stand nowhere");
            goto end;
        }
    }
    if (ends && (line_ends.len / 4 != lines || !are_ends(&line_ends, 0, 0, data.len))) {
        PyErr_SetString(PyExc_ValueError, "lines that end nowhere");
        goto end;
    }
    if (!rows && !ends) {
        Py_ssize_t plain, returns;
        own_ends = data.len <= INT32_MAX ? PyMem_Malloc(4 * (data.len + 1)) : NULL;
        if (!own_ends) {
            PyErr_NoMemory();
            goto end;
        }
        const Py_ssize_t there = find_ends((const uint8_t *)base, data.len, own_ends, &plain, &returns);
        lines = there < lines ? there : lines;
        ends = own_ends;
    }
    int has_heap = 1;
    for (Py_ssize_t each = 0; each < known; each++) has_heap &= place[each] < heaps;
    chosen = PyMem_Malloc(4 * (lines + 1));
    if (!chosen) {
        PyErr_NoMemory();
        goto end;
    }
    const int is_cut = ends && lines && ends[lines - 1] == data.len && base[data.len - 1] != '\n';
    const Lines every = {base, data.len, lines, rows, ends, is_cut};
    if (has_heap) {
        Py_BEGIN_ALLOW_THREADS
        count = choose(&every, finish, place, known, heaps, sizes, chosen);
        Py_END_ALLOW_THREADS
    }
    has_heap &= count >= 0;
    if (!has_heap) {
        PyErr_SetString(PyExc_ValueError, "a finish that has no heap");
        goto end;
    }
    found = PyList_New(heaps);
    for (int each = 0; found && each < heaps; each++) {
        PyObject *made = PyBytes_FromStringAndSize(NULL, sizes[each]);
        if (!made || PyList_SetItem(found, each, made) < 0) goto end;
        heap[each].at = PyBytes_AsString(made);
        heap[each].end = heap[each].at + sizes[each];
    }
    if (!found) goto end;
    Py_BEGIN_ALLOW_THREADS
    put_on_heaps(&every, chosen, count, finish, place, heap);
    Py_END_ALLOW_THREADS
    fine = 1;
end:
    if (!fine) {
        Py_XDECREF(found);
        found = NULL;
    }
    PyMem_Free(own_ends);
    PyMem_Free(chosen);
    PyMem_Free(sizes);
    PyMem_Free(heap);
    if (row_places.obj) PyBuffer_Release(&row_places);
    if (line_ends.obj) PyBuffer_Release(&line_ends);
    PyBuffer_Release(&data);
    PyBuffer_Release(&finishes);
    PyBuffer_Release(&heap_of);
    return found;
}

PyDoc_STRVAR(tally_doc,
"tally(finishes, kinds) -> list of int\n\nCount finishes (int16): those of -1 first, then those of 0 to kinds - 1.");

static PyObject *tally(PyObject *module, PyObject *arguments) {
    Py_buffer finishes;
    int kinds;
    if (!PyArg_ParseTuple(arguments, "y*i", &finishes, &kinds)) return NULL;
    const int16_t *finish = finishes.buf;
    PyObject *found = NULL;
    Py_ssize_t *counts = kinds >= 0 ? PyMem_Calloc(kinds + 1, sizeof(Py_ssize_t)) : NULL;
    if (counts) {
        Py_ssize_t each = 0, none = 0, first = 0;
        for (; kinds == 1 && each < finishes.len / 2; each++) {
            none += finish[each] == -1;
            first += finish[each] == 0;
        }
        counts[0] = none;
        if (kinds) counts[1] = first;
        for (; each < finishes.len / 2; each++) {
            int place = finish[each] + 1;
            if (place >= 0 && place <= kinds) counts[place]++;
        }
        found = PyList_New(kinds + 1);
        for (int each = 0; found && each <= kinds; each++) PyList_SetItem(found, each, PyLong_FromSsize_t(counts[each]));
    } else {
        PyErr_NoMemory();
    }
    PyMem_Free(counts);
    PyBuffer_Release(&finishes);
    return found;
}

static inline void put_one(Text *text, char byte) {
    if (has_room(text, 1)) *text->at++ = byte;
}

static void put_number(Text *text, long long number) {
    char digits[24];
    int at = 24;
    unsigned long long left = number < 0 ? 0ULL - (unsigned long long)number : (unsigned long long)number;
    do {
        digits[--at] = '0' + left % 10;
        left /= 10;
    } while (left);
    if (number < 0) digits[--at] = '-';
    put(text, digits + at, 24 - at);
}

static Py_ssize_t code_points(const uint8_t *at, const uint8_t *end) {
    Py_ssize_t found = 0;
    while (at < end) {
        uint32_t code;
        at += decoded(at, end, &code);
        found++;
    }
    return found;
}

/* A place of a text in bytes, and how many code points are before it. */
typedef struct {
    int32_t start, place;
    Py_ssize_t points;
} Counted;

/* Count the code points before a place from the one that was asked for last, or from where the text starts if that is nearer:
 * matches of a text that is one long line come one after another.
 */
static Py_ssize_t points_before(Counted *last, const uint8_t *base, int32_t start, int32_t place) {
    if (place <= start) return 0;
    if (last->start != start || place - start < last->place - place) *last = (Counted){start, start, 0};
    if (place < last->place) last->points -= code_points(base + place, base + last->place);
    else last->points += code_points(base + last->place, base + place);
    last->place = place;
    return last->points;
}

#define EACH UINT64_C(0x0101010101010101)

/* Not 0 if one of eight bytes is 0 (Warren, "Hacker's Delight", 2002, section 6-1). */
static inline uint64_t none_among(uint64_t eight) { return (eight - EACH) & ~eight & (EACH << 7); }

static void put_delimited(Text *text, const uint8_t *at, Py_ssize_t count, char delimiter) {
    uint64_t special = 0;
    Py_ssize_t each = 0, quotes = 0;
    if (!has_room(text, count + 8)) return;
    /* Eight bytes at a time: a byte is special if nothing is left of it when it is taken from what is special. */
    for (; count - each >= 8; each += 8) {
        uint64_t eight;
        memcpy(&eight, at + each, 8);
        memcpy(text->at + each, &eight, 8);
        special |= none_among(eight ^ EACH * (uint8_t)delimiter) | none_among(eight ^ EACH * '"') |
                   none_among(eight ^ EACH * '\n') | none_among(eight ^ EACH * '\r');
    }
    for (; each < count; each++) {
        uint8_t byte = at[each];
        text->at[each] = (char)byte;
        special |= (byte == (uint8_t)delimiter) | (byte == '"') | (byte == '\n') | (byte == '\r');
    }
    if (!special) {
        text->at += count;
        return;
    }
    for (each = 0; each < count; each++) quotes += at[each] == '"';
    if (!has_room(text, count + quotes + 2)) return;
    *text->at++ = '"';
    for (Py_ssize_t each = 0; each < count; each++) {
        if (at[each] == '"') *text->at++ = '"';
        *text->at++ = (char)at[each];
    }
    *text->at++ = '"';
}

static const char HEX[] = "0123456789abcdef";

static void put_escape(Text *text, uint32_t unit) {
    char escape[6] = {'\\', 'u', HEX[unit >> 12 & 15], HEX[unit >> 8 & 15], HEX[unit >> 4 & 15], HEX[unit & 15]};
    put(text, escape, 6);
}

/* Write a text as JSON (RFC 8259); with bytes that are no text in it, all beyond ASCII as escapes. */
static void put_json(Text *text, const uint8_t *at, Py_ssize_t count) {
    const uint8_t *end = at + count;
    int in_ascii = 0;
    for (const uint8_t *each = beyond_ascii(at, end); each < end;) {
        uint32_t code;
        each += decoded(each, end, &code);
        if (code >= 0xDC80 && code <= 0xDCFF) {
            in_ascii = 1;
            break;
        }
    }
    put_one(text, '"');
    while (at < end) {
        uint32_t code;
        int length = decoded(at, end, &code);
        if (code == '"' || code == '\\') {
            put_one(text, '\\');
            put_one(text, (char)code);
        } else if (code < 0x20) {
            const char *named = "\b\t\n\f\r", *spelled = "btnfr", *which = code ? strchr(named, (int)code) : NULL;
            if (which) {
                put_one(text, '\\');
                put_one(text, spelled[which - named]);
            } else {
                put_escape(text, code);
            }
        } else if (in_ascii && code > 0x7E) {
            if (code > 0xFFFF) {
                put_escape(text, 0xD800 + ((code - 0x10000) >> 10));
                put_escape(text, 0xDC00 + ((code - 0x10000) & 0x3FF));
            } else {
                put_escape(text, code);
            }
        } else {
            put(text, at, length);
        }
        at += length;
    }
    put_one(text, '"');
}

/* What stands in a column: a piece of the text; as JSON a piece that is written as it is; something the same in all rows;
 * the number of the text; a place in it, in code points; a number of the row's own. */
enum { PIECE = 0, BARE = 1, SAME = 2, NUMBER = 3, PLACE = 4, VALUE = 5 };

PyDoc_STRVAR(write_doc,
"write(data, side, rows, width, count, refused, columns, same, heads, mark, first_number, numbers) -> bytes\n\n"
"Write rows (int32, `width` a row, `count` of them) as text. An offset beyond data is one into side. Rows whose byte in\n"
"refused is not 0 are left out. columns (int32 pairs): what stands there (0 a piece, 1 a bare piece, 2 one of `same`, 3\n"
"the number, 4 a place in code points, 5 a number of the row's own) and its index, in a row or in `same`. Texts are numbered\n"
"from first_number, or as numbers (int32) has it. With heads (list of bytes) rows are written as JSON, heads[i] before column\n"
"i and the last of them at the end; else as CSV with the delimiter `mark`.");

static PyObject *write_rows(PyObject *module, PyObject *arguments) {
    Py_buffer data, side, rows, refused, columns;
    Py_ssize_t width, count;
    PyObject *same, *heads, *numbers_given, *result = NULL;
    Py_buffer known_numbers = {0};
    int mark;
    long long first_number;
    if (!PyArg_ParseTuple(arguments, "y*y*y*nny*y*OOiLO", &data, &side, &rows, &width, &count, &refused, &columns, &same,
                          &heads, &mark, &first_number, &numbers_given))
        return NULL;
    Text text = {NULL, NULL, NULL, 0};
    const Py_ssize_t wide = columns.len / 8;
    const int32_t *column = columns.buf;
    const uint8_t *skip = refused.buf;
    const int as_json = heads != Py_None;
    const char *fixed[MOST_COLUMNS], *head[MOST_COLUMNS + 1];
    Py_ssize_t fixed_size[MOST_COLUMNS], head_size[MOST_COLUMNS + 1];
    Py_ssize_t known = PyList_Size(same);
    if (numbers_given != Py_None && PyObject_GetBuffer(numbers_given, &known_numbers, PyBUF_SIMPLE) < 0) goto end;
    const int32_t *number_of = known_numbers.buf;
    int fine = known >= 0 && known <= MOST_COLUMNS && wide <= MOST_COLUMNS && wide > 0 && count >= 0 &&
               width >= HEAD && rows.len / 4 >= width * count && (refused.len == 0 || refused.len >= count) &&
               (!as_json || PyList_Size(heads) == wide + 1);
    for (Py_ssize_t each = 0; fine && each < known; each++) {
        PyObject *item = PyList_GetItem(same, each);
        char *bytes;
        if (!item || PyBytes_AsStringAndSize(item, &bytes, &fixed_size[each]) < 0) goto end;
        fixed[each] = bytes;
    }
    for (Py_ssize_t each = 0; fine && as_json && each <= wide; each++) {
        PyObject *item = PyList_GetItem(heads, each);
        char *bytes;
        if (!item || PyBytes_AsStringAndSize(item, &bytes, &head_size[each]) < 0) goto end;
        head[each] = bytes;
    }
    for (Py_ssize_t each = 0; fine && each < wide; each++) {
        int32_t what = column[2 * each], index = column[2 * each + 1];
        fine = what == SAME ? index >= 0 && index < known
             : what == NUMBER ? 1
             : what == PLACE || what == VALUE ? index >= 0 && index < width
             : (what == PIECE || what == BARE) && index >= 0 && index + 1 < width;
    }
    if (!fine) {
        PyErr_SetString(PyExc_ValueError, "these are no rows, or no columns of them");
        goto end;
    }
    Py_BEGIN_ALLOW_THREADS
    const uint8_t *base = data.buf, *beside = side.buf;
    Counted counted = {-1, -1, 0};
    for (Py_ssize_t number = 0; number < count && !text.failed; number++) {
        const int32_t *row = (const int32_t *)rows.buf + number * width;
        if (refused.len && skip[number]) continue;
        for (Py_ssize_t each = 0; each < wide; each++) {
            int32_t what = column[2 * each], index = column[2 * each + 1];
            if (as_json) put(&text, head[each], head_size[each]);
            else if (each) put_one(&text, (char)mark);
            if (what == SAME) {
                put(&text, fixed[index], fixed_size[index]);
            } else if (what == NUMBER) {
                int known_number = number_of && row[0] >= 0 && row[0] < known_numbers.len / 4;
                put_number(&text, known_number ? number_of[row[0]] : first_number + row[0]);
            } else if (what == VALUE) {
                put_number(&text, row[index]);
            } else if (what == PLACE) {
                put_number(&text, (long long)points_before(&counted, base, row[1], row[index]));
            } else if (row[index + 1] < 0 || row[index] < 0) {
                if (as_json) put(&text, "null", 4);
                else if (wide == 1) put(&text, "\"\"", 2);
            } else {
                Py_ssize_t start = row[index], size = row[index + 1] - start;
                const int is_beside = start >= data.len && size;
                if (size < 0 || start + size > data.len + (is_beside ? side.len : 0)) {
                    text.failed = 2;
                    break;
                }
                const uint8_t *piece = is_beside ? beside + (start - data.len) : base + start;
                if (what == BARE) put(&text, piece, size);
                else if (as_json) put_json(&text, piece, size);
                else if (!size && wide == 1) put(&text, "\"\"", 2);
                else put_delimited(&text, piece, size, (char)mark);
            }
        }
        if (as_json) put(&text, head[wide], head_size[wide]);
        put_one(&text, '\n');
    }
    Py_END_ALLOW_THREADS
    if (text.failed == 2) PyErr_SetString(PyExc_ValueError, "a cell lies outside the text");
    else if (text.failed) PyErr_NoMemory();
    else result = PyBytes_FromStringAndSize(text.start, text.at - text.start);
end:
    free(text.start);
    if (known_numbers.obj) PyBuffer_Release(&known_numbers);
    PyBuffer_Release(&data);
    PyBuffer_Release(&side);
    PyBuffer_Release(&rows);
    PyBuffer_Release(&refused);
    PyBuffer_Release(&columns);
    return result;
}

/* What is made of the cells of one typed column. A cell that is written otherwise than it stands is written to side, and
 * its place in the row changed; one that the kernel does not read for sure is unusual, and left to Python. */
typedef struct {
    Py_buffer data, side, rows, refused, unusual;
    Py_ssize_t side_at, width, count;
    int index, blame;
} Cells;

enum { FINE = 0, REFUSED = 1, UNUSUAL = 2 };

static void release_cells(Cells *cells) {
    PyBuffer_Release(&cells->data);
    PyBuffer_Release(&cells->side);
    PyBuffer_Release(&cells->rows);
    PyBuffer_Release(&cells->refused);
    PyBuffer_Release(&cells->unusual);
}

static int are_sound(const Cells *cells) {
    if (cells->width >= HEAD && cells->count >= 0 && cells->index >= HEAD && cells->index + 1 < cells->width &&
        cells->rows.len / 4 >= cells->width * cells->count && cells->refused.len >= cells->count &&
        cells->unusual.len >= cells->count && cells->side_at >= 0 && cells->side_at <= cells->side.len &&
        cells->data.len + cells->side.len < INT32_MAX)
        return 1;
    PyErr_SetString(PyExc_ValueError, "these are no rows, or no column of them");
    return 0;
}

#define MOST_WRITTEN 40 /* bytes that a value is written in at the most */

/* Judge every cell of a column by `judge(settings, cell, end, into, &length)`, which writes what stands otherwise to into. */
typedef int (*Judge)(const void *settings, const uint8_t *at, const uint8_t *end, char *into, int *length);

static void judge_cells(Cells *cells, Judge judge, const void *settings) {
    int32_t *row = cells->rows.buf;
    uint8_t *refused = cells->refused.buf, *unusual = cells->unusual.buf;
    char *side = cells->side.buf;
    const uint8_t *base = cells->data.buf;
    for (Py_ssize_t number = 0; number < cells->count; number++, row += cells->width) {
        int32_t start = row[cells->index], stop = row[cells->index + 1];
        unusual[number] = 0;
        if (refused[number] || start < 0 || stop < 0 || stop > cells->data.len || start > stop) continue;
        int length = 0;
        int judged = cells->side.len - cells->side_at < MOST_WRITTEN
            ? UNUSUAL
            : judge(settings, base + start, base + stop, side + cells->side_at, &length);
        if (judged == UNUSUAL) {
            unusual[number] = 1;
        } else if (judged == REFUSED) {
            refused[number] = (uint8_t)cells->blame;
        } else if (length) {
            row[cells->index] = (int32_t)(cells->data.len + cells->side_at);
            row[cells->index + 1] = row[cells->index] + length;
            cells->side_at += length;
        }
    }
}

typedef struct {
    int with_fraction, mark, group, has_least, has_most, least_scale, most_scale;
    long long least, most;
} Number;

#define MOST_DIGITS 18
#define MOST_FRACTION 6 /* digits after the mark up to which no exponent is ever written */

static __int128 scaled(long long value, int by) {
    __int128 found = value;
    while (by-- > 0) found *= 10;
    return found;
}

#define FAR (INT64_MAX / 10)

/* Compare value / 10^scale with bound / 10^bound_scale. */
static int compared(long long value, int scale, long long bound, int bound_scale) {
    if (scale == bound_scale) return value < bound ? -1 : value > bound;
    if (scale == bound_scale + 1 && bound > -FAR && bound < FAR) return value < 10 * bound ? -1 : value > 10 * bound;
    __int128 one = scaled(value, bound_scale > scale ? bound_scale - scale : 0);
    __int128 other = scaled(bound, scale > bound_scale ? scale - bound_scale : 0);
    return one < other ? -1 : one > other;
}

static int judge_number(const void *given, const uint8_t *at, const uint8_t *end, char *into, int *length) {
    const Number *asked = given;
    const uint8_t *cell = at;
    char *written = into;
    int negative = 0, digits = 0, fraction = 0, changed = 0, groups = 0, in_group = 0;
    long long value = 0;
    if (end - at > MOST_WRITTEN) return UNUSUAL;
    if (at < end && (*at == '-' || *at == '+')) {
        negative = *at == '-';
        changed |= !negative;
        if (negative) *written++ = '-';
        at++;
    }
    const uint8_t *whole = at;
    for (; at < end; at++) {
        if (*at >= '0' && *at <= '9') {
            if (++digits > MOST_DIGITS) return UNUSUAL;
            in_group++;
            value = value * 10 + (*at - '0');
            if (value) *written++ = (char)*at;
        } else if (asked->group >= 0 && *at == asked->group) {
            if (groups ? in_group != 3 : in_group < 1 || in_group > 3) return UNUSUAL;
            groups++;
            in_group = 0;
            changed = 1;
        } else {
            break;
        }
    }
    if (!digits || (groups && in_group != 3)) return UNUSUAL;
    if (!value) {
        *written++ = '0';
        changed |= at - whole > 1;
    } else {
        changed |= *whole == '0';
    }
    if (asked->with_fraction && at < end && *at == asked->mark) {
        *written++ = '.';
        changed |= asked->mark != '.';
        for (at++; at < end && *at >= '0' && *at <= '9'; at++) {
            if (++digits > MOST_DIGITS || ++fraction > MOST_FRACTION) return UNUSUAL;
            value = value * 10 + (*at - '0');
            *written++ = (char)*at;
        }
        if (!fraction) return UNUSUAL;
    }
    if (at < end) return UNUSUAL;
    if (negative && !value && !asked->with_fraction) {
        *into = '0';
        written = into + 1;
        changed = 1;
    }
    if (negative) value = -value;
    if (asked->has_least && compared(value, fraction, asked->least, asked->least_scale) < 0) return REFUSED;
    if (asked->has_most && compared(value, fraction, asked->most, asked->most_scale) > 0) return REFUSED;
    *length = changed || written - into != end - cell ? (int)(written - into) : 0;
    return FINE;
}

PyDoc_STRVAR(numbers_doc,
"numbers(data, side, side_at, rows, width, count, index, blame, refused, unusual, with_fraction, mark, group, least, most)\n"
"-> side_at\n\n"
"Judge and rewrite a column of integers or decimals; a row that is refused gets blame in refused. mark and group are bytes, group -1 for none; least and most are None or\n"
"a pair of an integer and the power of ten that it is divided by.");

static int bound(PyObject *given, int *has, long long *value, int *scale) {
    *has = given != Py_None;
    return !*has || (PyArg_ParseTuple(given, "Li", value, scale) && *scale >= 0 && *scale <= MOST_DIGITS);
}

static PyObject *numbers(PyObject *module, PyObject *arguments) {
    Cells cells;
    Number asked;
    PyObject *least, *most, *result = NULL;
    if (!PyArg_ParseTuple(arguments, "y*w*nw*nniiw*w*iiiOO", &cells.data, &cells.side, &cells.side_at, &cells.rows,
                          &cells.width, &cells.count, &cells.index, &cells.blame, &cells.refused, &cells.unusual,
                          &asked.with_fraction, &asked.mark, &asked.group, &least, &most))
        return NULL;
    if (are_sound(&cells)) {
        if (bound(least, &asked.has_least, &asked.least, &asked.least_scale) &&
            bound(most, &asked.has_most, &asked.most, &asked.most_scale)) {
            Py_BEGIN_ALLOW_THREADS
            judge_cells(&cells, judge_number, &asked);
            Py_END_ALLOW_THREADS
            result = PyLong_FromSsize_t(cells.side_at);
        } else if (!PyErr_Occurred()) {
            PyErr_SetString(PyExc_ValueError, "this is no bound");
        }
    }
    release_cells(&cells);
    return result;
}

/* What was worked out of the date before: most that follow one another are of one day. */
typedef struct {
    uint8_t text[10];
    int is_known;
    long long days;
} Day;

typedef struct {
    int has_date, has_time, has_least, has_most, bound_has_offset;
    long long least, most;
    Day *before;
} Moment;

/* Days from 1970-01-01 to a day of the proleptic Gregorian calendar (Howard Hinnant, "chrono-compatible low-level date
 * algorithms", 2013). */
static long long days_from(int year, int month, int day) {
    year -= month <= 2;
    int era = (year >= 0 ? year : year - 399) / 400;
    int of_era = year - era * 400;
    int of_year = (153 * (month + (month > 2 ? -3 : 9)) + 2) / 5 + day - 1;
    return era * 146097LL + of_era * 365LL + of_era / 4 - of_era / 100 + of_year - 719468;
}

static int digits_at(const uint8_t *at, const uint8_t *end, int count, int *value) {
    *value = 0;
    if (end - at < count) return 0;
    for (int each = 0; each < count; each++) {
        if (at[each] < '0' || at[each] > '9') return 0;
        *value = *value * 10 + (at[each] - '0');
    }
    return 1;
}

/* The days from 1970-01-01 to a date as ISO 8601 has it; 0 where there is none. */
static int day_at(const uint8_t *at, const uint8_t *end, Day *before, long long *days) {
    static const int LENGTHS[] = {31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
    int year, month, day;
    if (end - at < 10) return 0;
    if (!before->is_known || memcmp(at, before->text, 10)) {
        if (!digits_at(at, end, 4, &year) || at[4] != '-' || !digits_at(at + 5, end, 2, &month) || at[7] != '-' ||
            !digits_at(at + 8, end, 2, &day) || year < 1 || month < 1 || month > 12 || day < 1)
            return 0;
        int leap = month == 2 && year % 4 == 0 && (year % 100 != 0 || year % 400 == 0);
        if (day > LENGTHS[month - 1] + leap) return 0;
        memcpy(before->text, at, 10);
        before->days = days_from(year, month, day);
        before->is_known = 1;
    }
    *days = before->days;
    return 1;
}

/* ISO 8601 as it is usually written: 2026-05-04, 06:10, 06:10:00, 2026-05-04T06:10:00.250+02:00. */
static int judge_moment(const void *given, const uint8_t *at, const uint8_t *end, char *into, int *length) {
    const Moment *asked = given;
    const uint8_t *cell = at;
    char *written = into;
    long long micros = 0;
    int has_offset = 0;
    if (asked->has_date) {
        long long days;
        if (!day_at(at, end, asked->before, &days)) return UNUSUAL;
        micros = days * 86400000000LL;
        memcpy(written, at, 10);
        written += 10;
        at += 10;
    }
    if (asked->has_time) {
        int hour, minute, second = 0, fraction = 0;
        if (asked->has_date) {
            if (at >= end || (*at != 'T' && *at != ' ' && *at != 't')) return UNUSUAL;
            *written++ = 'T';
            at++;
        }
        if (end - at < 5 || !digits_at(at, end, 2, &hour) || at[2] != ':' || !digits_at(at + 3, end, 2, &minute) ||
            hour > 23 || minute > 59)
            return UNUSUAL;
        memcpy(written, at, 5);
        written += 5;
        at += 5;
        memcpy(written, ":00", 3);
        if (at < end && *at == ':') {
            if (!digits_at(at + 1, end, 2, &second) || second > 59) return UNUSUAL;
            memcpy(written, at, 3);
            at += 3;
            if (at < end && *at == '.') {
                int digits = end - at > 6 && digits_at(at + 1, end, 6, &fraction) ? 6
                           : end - at > 3 && digits_at(at + 1, end, 3, &fraction) ? 3 : 0;
                if (!digits || (at + 1 + digits < end && at[1 + digits] >= '0' && at[1 + digits] <= '9')) return UNUSUAL;
                if (digits == 3) fraction *= 1000;
                if (fraction) {
                    written += 3;
                    *written++ = '.';
                    for (int each = 0, left = fraction; each < 6; each++, left /= 10) written[5 - each] = '0' + left % 10;
                    written += 3;
                }
                at += 1 + digits;
            }
        }
        written += 3;
        micros += ((hour * 60LL + minute) * 60 + second) * 1000000 + fraction;
        if (at < end) {
            int ahead = 0, minutes = 0, sign = *at;
            if ((sign == 'Z' || sign == 'z') && at + 1 == end) {
                at++;
            } else if ((sign == '+' || sign == '-') && end - at == 6 && digits_at(at + 1, end, 2, &ahead) &&
                       at[3] == ':' && digits_at(at + 4, end, 2, &minutes) && ahead < 24 && minutes < 60) {
                at += 6;
            } else {
                return UNUSUAL;
            }
            has_offset = 1;
            minutes += ahead * 60;
            *written++ = sign == '-' && minutes ? '-' : '+';
            *written++ = '0' + minutes / 600;
            *written++ = '0' + minutes / 60 % 10;
            *written++ = ':';
            *written++ = '0' + minutes % 60 / 10;
            *written++ = '0' + minutes % 10;
            micros -= (sign == '-' ? -60000000LL : 60000000LL) * minutes;
        }
    }
    if (at < end) return UNUSUAL;
    if (asked->has_least || asked->has_most) {
        if (has_offset != asked->bound_has_offset) return UNUSUAL;
        if (asked->has_least && micros < asked->least) return REFUSED;
        if (asked->has_most && micros > asked->most) return REFUSED;
    }
    int same = written - into == end - cell && !memcmp(into, cell, end - cell);
    *length = same ? 0 : (int)(written - into);
    return FINE;
}

PyDoc_STRVAR(moments_doc,
"moments(data, side, side_at, rows, width, count, index, blame, refused, unusual, has_date, has_time, least, most, bound_has_offset)\n"
"-> side_at\n\n"
"Judge and rewrite a column of dates, times or timestamps. least and most are None or microseconds since 1970-01-01, in UTC\n"
"if the bounds have an offset, or since midnight.");

static PyObject *moments(PyObject *module, PyObject *arguments) {
    Cells cells;
    Day before = {{0}, 0, 0};
    Moment asked = {0};
    asked.before = &before;
    PyObject *least, *most, *result = NULL;
    if (!PyArg_ParseTuple(arguments, "y*w*nw*nniiw*w*iiOOi", &cells.data, &cells.side, &cells.side_at, &cells.rows,
                          &cells.width, &cells.count, &cells.index, &cells.blame, &cells.refused, &cells.unusual, &asked.has_date,
                          &asked.has_time, &least, &most, &asked.bound_has_offset))
        return NULL;
    asked.has_least = least != Py_None;
    asked.has_most = most != Py_None;
    if (asked.has_least) asked.least = PyLong_AsLongLong(least);
    if (asked.has_most) asked.most = PyLong_AsLongLong(most);
    if (!PyErr_Occurred() && are_sound(&cells)) {
        Py_BEGIN_ALLOW_THREADS
        judge_cells(&cells, judge_moment, &asked);
        Py_END_ALLOW_THREADS
        result = PyLong_FromSsize_t(cells.side_at);
    }
    release_cells(&cells);
    return result;
}

typedef struct {
    const uint8_t *text;
    Py_ssize_t size;
    const char *written;
    Py_ssize_t written_size;
} Listed;

typedef struct {
    Py_ssize_t count;
    Listed *listed;
} List;

static int judge_listed(const void *given, const uint8_t *at, const uint8_t *end, char *into, int *length) {
    const List *list = given;
    for (Py_ssize_t each = 0; each < list->count; each++) {
        const Listed *one = &list->listed[each];
        if (one->size == end - at && !memcmp(one->text, at, end - at)) {
            if (one->written) {
                memcpy(into, one->written, one->written_size);
                *length = (int)one->written_size;
            }
            return FINE;
        }
    }
    return UNUSUAL;
}

PyDoc_STRVAR(listed_doc,
"listed(data, side, side_at, rows, width, count, index, blame, refused, unusual, texts, written) -> side_at\n\n"
"Judge a column whose cells are one of a few texts (list of bytes), each written as it stands or, with written (list of\n"
"bytes), as that.");

static PyObject *listed(PyObject *module, PyObject *arguments) {
    Cells cells;
    List list = {0, NULL};
    PyObject *texts, *written, *result = NULL;
    if (!PyArg_ParseTuple(arguments, "y*w*nw*nniiw*w*OO", &cells.data, &cells.side, &cells.side_at, &cells.rows,
                          &cells.width, &cells.count, &cells.index, &cells.blame, &cells.refused, &cells.unusual, &texts, &written))
        return NULL;
    list.count = PyList_Size(texts);
    if (list.count < 0 || !are_sound(&cells)) goto end;
    list.listed = PyMem_Calloc(list.count ? list.count : 1, sizeof(Listed));
    if (!list.listed) {
        PyErr_NoMemory();
        goto end;
    }
    for (Py_ssize_t each = 0; each < list.count; each++) {
        Listed *one = &list.listed[each];
        char *bytes;
        PyObject *item = PyList_GetItem(texts, each);
        if (!item || PyBytes_AsStringAndSize(item, &bytes, &one->size) < 0) goto end;
        one->text = (const uint8_t *)bytes;
        if (written != Py_None) {
            item = PyList_GetItem(written, each);
            if (!item || PyBytes_AsStringAndSize(item, &bytes, &one->written_size) < 0) goto end;
            if (one->written_size > MOST_WRITTEN) {
                PyErr_SetString(PyExc_ValueError, "what is written is too long");
                goto end;
            }
            one->written = bytes;
        }
    }
    Py_BEGIN_ALLOW_THREADS
    judge_cells(&cells, judge_listed, &list);
    Py_END_ALLOW_THREADS
    result = PyLong_FromSsize_t(cells.side_at);
end:
    PyMem_Free(list.listed);
    release_cells(&cells);
    return result;
}

PyDoc_STRVAR(is_sound_doc,
"is_sound(table) -> bool\n\nTell whether every entry leads to a row, a record or a finish that is there.");

static int is_sound_act(const Table *table, Py_ssize_t acts, Py_ssize_t finishes, int32_t at) {
    if (at < 0 || at + 3 > acts) return 0;
    const int32_t *act = table->acts + at;
    if (act[1] >= 0) return table->slots == 0 || act[1] < finishes;
    if (act[0] < 0 || act[0] + table->stride > table->cells || act[0] % table->stride) return 0;
    if (act[2] < 0 || act[2] > MOST_REGISTERS || at + 3 + 2 * (Py_ssize_t)act[2] > acts) return 0;
    for (int32_t each = 0; each < act[2]; each++) {
        int32_t into = act[3 + 2 * each], from = act[4 + 2 * each];
        if (into < 0 || into >= MOST_REGISTERS || from >= MOST_REGISTERS || (from < 0 && from != HERE)) return 0;
    }
    return 1;
}

static PyObject *is_sound(PyObject *module, PyObject *arguments) {
    PyObject *given;
    Table table;
    if (!PyArg_ParseTuple(arguments, "O", &given)) return NULL;
    if (!hold_table(given, &table)) return NULL;
    const Py_ssize_t acts = table.held[5].len / 4, finals = table.held[6].len / 4;
    const Py_ssize_t finishes = table.slots ? finals / table.slots : 0;
    int sound = table.cells % table.stride == 0;
    for (Py_ssize_t each = 0; sound && each < table.runs; each++) sound = table.letters[each] < table.stride - 2;
    for (Py_ssize_t each = 0; sound && each < 0x10000; each++) sound = table.direct[each] < table.stride - 2;
    for (Py_ssize_t each = 0; sound && each < finals; each++)
        sound = table.finals[each] >= HERE && table.finals[each] < MOST_REGISTERS;
    for (Py_ssize_t each = 0; sound && each < table.cells; each++) {
        int32_t entry = table.next[each];
        if (entry <= FIRST_ACT) sound = is_sound_act(&table, acts, finishes, FIRST_ACT - entry);
        else if (entry >= 0) sound = entry + table.stride <= table.cells && entry % table.stride == 0;
        sound = sound && table.into[each] < MOST_REGISTERS;
    }
    release_table(&table);
    return PyBool_FromLong(sound);
}

PyDoc_STRVAR(leaps_doc,
"leaps(table, data, cells, first, again) -> (leap_of, leaps)\n\n"
"Tell for each row which bytes mostly lead on from it, one after the other, as the beginning of data has them, for walks that go\n"
"on after a match or do not; see `read`.");

#define SAMPLE 65536     /* bytes of text by which leaps are chosen */
#define TRY 1.3          /* what a leap costs, in steps that are taken one by one, */
#define FAILURE 4.0      /* and what it costs beside that when it does not come to its end */

/* How often each byte of ASCII was read in each row, and how often the row was come to. */
typedef struct {
    uint32_t bytes[0x80], all;
} Visits;

static void visit(const Table *table, const uint8_t *at, const uint8_t *end, int32_t first, int again, Visits *visits) {
    int32_t row = first;
    for (; at < end; at++) {
        Visits *here = &visits[row / table->stride];
        here->all++;
        if (*at >= 0x80) return;
        here->bytes[*at]++;
        int32_t onward = table->next[row + table->direct[*at]];
        if (onward <= FIRST_ACT) {
            const int32_t *act = table->acts + (FIRST_ACT - onward);
            onward = act[1] < 0 ? act[0] : DEAD;
            if (act[1] >= 0 && again) {
                /* What the match ended before begins what comes next. */
                onward = first;
                at -= row != first;
            }
        }
        if (onward < 0) return;
        row = onward;
    }
    visits[row / table->stride].all++;
}

/* Where a row mostly leads, by bytes of which range or outside which, what is noted there, and how often that is so. */
typedef struct {
    int32_t after;
    uint16_t into;
    uint8_t least, most, outside;
    double likely;
} Onward;

/* Let `found` be the range, if it is taken more often than what was found before. */
static void weigh(Onward *found, const Visits *visits, int least, int most, int outside) {
    uint32_t count = 0;
    for (int byte = 0; byte < 0x80; byte++) count += (byte >= least && byte <= most) != outside ? visits->bytes[byte] : 0;
    const double likely = visits->all ? (double)count / visits->all : 0;
    if (likely <= found->likely) return;
    found->least = (uint8_t)least;
    found->most = (uint8_t)most;
    found->outside = (uint8_t)outside;
    found->likely = likely;
}

static Onward onward_of(const Table *table, Py_ssize_t row, const Visits *visits) {
    const int32_t *next = table->next + row;
    const uint16_t *into = table->into + row;
    int often = 0, begun = -1, first = -1, last = -1, left_out = 0;
    for (int byte = 1; byte < 0x80; byte++)
        if (visits->bytes[byte] > visits->bytes[often]) often = byte;
    const uint16_t usual = table->direct[often];
    Onward found = {next[usual], into[usual], 0, 0, 0, 0};
    if (found.after < 0) return found;
    for (int byte = 0; byte <= 0x80; byte++) {
        const uint16_t letter = byte < 0x80 ? table->direct[byte] : 0;
        const int leads = byte < 0x80 && next[letter] == found.after && into[letter] == found.into;
        if (leads) {
            if (begun < 0) begun = byte;
            continue;
        }
        if (begun >= 0) weigh(&found, visits, begun, byte - 1, 0);
        begun = -1;
        if (byte == 0x80) break;
        if (first < 0) first = byte;
        last = byte;
        left_out++;
    }
    if (left_out && last - first + 1 == left_out) weigh(&found, visits, first, last, 1);
    return found;
}

/* Tell how few letters lead to each row, as far as is known; -1 for one that is not come to. A text that fits has `least`
 * bytes or more, so from a row on it needs what is left of them.
 */
static void measure(const Table *table, Py_ssize_t rows, int32_t *depths) {
    int32_t *const queue = depths + rows;
    Py_ssize_t begun = 0, count = 1;
    for (Py_ssize_t row = 0; row < rows; row++) depths[row] = -1;
    depths[0] = 0;
    queue[0] = 0;
    while (begun < count) {
        const int32_t row = queue[begun++];
        for (int letter = 0; letter < table->stride; letter++) {
            int32_t onward = table->next[(Py_ssize_t)row * table->stride + letter];
            if (onward <= FIRST_ACT) onward = table->acts[FIRST_ACT - onward + 1] < 0 ? table->acts[FIRST_ACT - onward] : DEAD;
            if (onward < 0 || depths[onward / table->stride] >= 0) continue;
            depths[onward / table->stride] = depths[row] + 1;
            queue[count++] = onward / table->stride;
        }
    }
}

/* Tell how many steps on from a row are best made one leap of; 0 where they are quicker one by one. */
static int best_of(const Onward *steps, Py_ssize_t row, int stride) {
    double likely = 1, passed = 0, best = TRY;
    int noted = 0, chosen = 0;
    for (int count = 1; count <= MOST_LEAPT && steps[row].after >= 0; count++) {
        noted += steps[row].into != 0;
        if (noted > MOST_NOTED) break;
        likely *= steps[row].likely;
        passed += likely;
        if (passed - FAILURE * (1 - likely) > best) {
            best = passed - FAILURE * (1 - likely);
            chosen = count;
        }
        row = steps[row].after / stride;
    }
    return chosen;
}

static PyObject *leaps(PyObject *module, PyObject *arguments) {
    PyObject *given, *cells_given, *made = NULL, *made_of = NULL;
    Table table;
    Py_buffer data = {0}, cells = {0};
    Visits *visits = NULL;
    Onward *steps = NULL;
    Leap *found = NULL;
    int32_t *leap_of = NULL, *depths = NULL, count = 0;
    int first, again;
    table.count = 0;
    if (!PyArg_ParseTuple(arguments, "Oy*Oip", &given, &data, &cells_given, &first, &again)) return NULL;
    if (cells_given != Py_None && PyObject_GetBuffer(cells_given, &cells, PyBUF_SIMPLE) < 0) goto end;
    if (!hold_table(given, &table)) goto end;
    if (first < 0 || first + table.stride > table.cells) {
        PyErr_SetString(PyExc_ValueError, "the walk begins nowhere");
        goto end;
    }
    const Py_ssize_t rows = table.cells / table.stride;
    visits = PyMem_Calloc(rows, sizeof(Visits));
    steps = PyMem_Malloc(rows * sizeof(Onward));
    found = PyMem_Calloc(rows, sizeof(Leap));
    leap_of = PyMem_Calloc(rows * table.stride, 4);
    depths = PyMem_Calloc(2 * rows, 4);
    if (!depths || !visits || !steps || !found || !leap_of) {
        PyErr_NoMemory();
        goto end;
    }
    const uint8_t *base = data.buf, *stop = base + (data.len < SAMPLE ? data.len : SAMPLE);
    const int32_t *spans = cells.buf;
    for (const uint8_t *at = base; !spans && at < stop;) {
        const uint8_t *feed = line_end(at, stop);
        visit(&table, at, feed, first, again, visits);
        at = feed + 1;
    }
    for (Py_ssize_t cell = 0, seen = 0; spans && cell < cells.len / 8 && seen < SAMPLE; cell++) {
        visit(&table, base + spans[2 * cell], base + spans[2 * cell + 1], first, again, visits);
        seen += spans[2 * cell + 1] - spans[2 * cell] + 1;
    }
    for (Py_ssize_t row = 0; row < rows; row++) steps[row] = onward_of(&table, row * table.stride, &visits[row]);
    for (Py_ssize_t row = 0; row < rows; row++) {
        Leap *leap = &found[count];
        Py_ssize_t here = row;
        const int best = best_of(steps, row, table.stride);
        int noted = 0;
        if (!best) continue;
        *leap = (Leap){0};
        memset(leap->span, 0xFF, sizeof leap->span);
        while (leap->count < best) {
            if (steps[here].into) {
                leap->into[noted] = steps[here].into;
                leap->offset[noted++] = (uint8_t)leap->count;
            }
            const int each = leap->count++;
            leap->first[each] = steps[here].least;
            leap->span[each] = steps[here].most - steps[here].least;
            leap->other[each] = steps[here].outside ? 0xFF : 0;
            leap->after[each] = steps[here].after;
            here = steps[here].after / table.stride;
        }
        for (int each = leap->count; each < MOST_LEAPT; each++) leap->after[each] = leap->after[leap->count - 1];
        leap_of[row * table.stride] = ++count * (int32_t)sizeof(Leap);
    }
    measure(&table, rows, depths);
    for (Py_ssize_t row = 0; row < rows; row++)
        if (leap_of[row * table.stride] && depths[row] >= 0)
            found[leap_of[row * table.stride] / sizeof(Leap) - 1].least = table.least - depths[row];
    for (int32_t each = 0; each < count; each++) found[each].onward = leap_of[found[each].after[MOST_LEAPT - 1]];
    made_of = PyBytes_FromStringAndSize((char *)leap_of, rows * table.stride * 4);
    made = PyBytes_FromStringAndSize((char *)found, count * (Py_ssize_t)sizeof(Leap));
end:
    PyMem_Free(visits);
    PyMem_Free(steps);
    PyMem_Free(found);
    PyMem_Free(leap_of);
    PyMem_Free(depths);
    release_table(&table);
    if (cells.obj) PyBuffer_Release(&cells);
    PyBuffer_Release(&data);
    if (made && made_of) return Py_BuildValue("NN", made_of, made);
    Py_XDECREF(made);
    Py_XDECREF(made_of);
    return NULL;
}

PyDoc_STRVAR(replace_doc,
"replace(data, rows, width, count, refused, parts, texts) -> (bytes, changed, replaced)\n\n"
"Put something in place of each match and return all of data, how many of its lines became others, and how many matches were\n"
"replaced in those. parts (int32) is what stands there, in order: n from 0 for text n of texts, -1 - n for the cell at n.");

static PyObject *replace(PyObject *module, PyObject *arguments) {
    Py_buffer data, rows, refused, parts;
    Py_ssize_t width, count, changed = 0, replaced = 0;
    PyObject *texts, *result = NULL;
    if (!PyArg_ParseTuple(arguments, "y*y*nny*y*O", &data, &rows, &width, &count, &refused, &parts, &texts)) return NULL;
    Text made = {NULL, NULL, NULL, 0};
    const Py_ssize_t pieces = parts.len / 4, known = PyList_Size(texts);
    const int32_t *part = parts.buf;
    const uint8_t *skip = refused.buf;
    const char *fixed[MOST_COLUMNS];
    Py_ssize_t fixed_size[MOST_COLUMNS];
    int fine = known >= 0 && known <= MOST_COLUMNS && width >= HEAD + 2 && count >= 0 && rows.len / 4 >= width * count &&
               (refused.len == 0 || refused.len >= count);
    for (Py_ssize_t each = 0; fine && each < known; each++) {
        char *bytes;
        if (PyBytes_AsStringAndSize(PyList_GetItem(texts, each), &bytes, &fixed_size[each]) < 0) goto end;
        fixed[each] = bytes;
    }
    for (Py_ssize_t each = 0; fine && each < pieces; each++)
        fine = part[each] >= 0 ? part[each] < known : -1 - part[each] >= HEAD && -part[each] < width;
    if (!fine) {
        PyErr_SetString(PyExc_ValueError, "these are no rows, or no parts of a text");
        goto end;
    }
    Py_BEGIN_ALLOW_THREADS
    const uint8_t *base = data.buf;
    Py_ssize_t at = 0;
    has_room(&made, data.len + 16);
    for (Py_ssize_t number = 0; number < count && !made.failed;) {
        const int32_t *row = (const int32_t *)rows.buf + number * width;
        const int32_t line = row[0];
        if (row[1] < at || row[1] > data.len) {
            made.failed = 2;
            break;
        }
        put(&made, base + at, row[1] - at);
        at = row[1];
        const Py_ssize_t line_at = made.at - made.start;
        Py_ssize_t here = 0;
        for (; number < count && row[0] == line && !made.failed; number++, row += width) {
            if (refused.len && skip[number]) continue;
            if (row[HEAD] < at || row[HEAD + 1] < row[HEAD] || row[HEAD + 1] > data.len) {
                made.failed = 2;
                break;
            }
            put(&made, base + at, row[HEAD] - at);
            for (Py_ssize_t each = 0; each < pieces; each++) {
                if (part[each] >= 0) {
                    put(&made, fixed[part[each]], fixed_size[part[each]]);
                    continue;
                }
                int32_t from = row[-1 - part[each]], to = row[-part[each]];
                if (from >= 0 && to >= from && to <= data.len) put(&made, base + from, to - from);
            }
            at = row[HEAD + 1];
            here++;
        }
        const int32_t *last = row - width;
        const Py_ssize_t before = at - last[1], after = made.at - made.start - line_at;
        if (here && !made.failed && (before != after || memcmp(base + last[1], made.start + line_at, before))) {
            changed++;
            replaced += here;
        }
    }
    if (!made.failed) put(&made, base + at, data.len - at);
    Py_END_ALLOW_THREADS
    if (made.failed == 2) PyErr_SetString(PyExc_ValueError, "a match lies outside the text");
    else if (made.failed) PyErr_NoMemory();
    else result = Py_BuildValue("y#nn", made.start, (Py_ssize_t)(made.at - made.start), changed, replaced);
end:
    free(made.start);
    PyBuffer_Release(&data);
    PyBuffer_Release(&rows);
    PyBuffer_Release(&refused);
    PyBuffer_Release(&parts);
    return result;
}

#define PIECE_WIDTH (HEAD + 3)

PyDoc_STRVAR(pieces_doc,
"pieces(data, cells, rows, width, count, keep, drop, out) -> (pieces, cut) or None\n\n"
"Cut each line (or cell) up at its matches and write a row to out (int32, 6 a row) for each piece: number, start and end of\n"
"the text, number of the piece from 1, its start and end. With keep separators are pieces too; with drop empty ones are none.\n"
"cut counts the texts that came to more than one piece. None when out is full.");

static PyObject *pieces(PyObject *module, PyObject *arguments) {
    Py_buffer data, cells = {0}, rows, out;
    PyObject *cells_given, *result = NULL;
    Py_ssize_t width, count, made = 0, cut = 0;
    int keep, drop, full = 0;
    if (!PyArg_ParseTuple(arguments, "y*Oy*nnppw*", &data, &cells_given, &rows, &width, &count, &keep, &drop, &out))
        return NULL;
    if (cells_given != Py_None && PyObject_GetBuffer(cells_given, &cells, PyBUF_SIMPLE) < 0) goto end;
    if (width < HEAD + 2 || count < 0 || rows.len / 4 < width * count) {
        PyErr_SetString(PyExc_ValueError, "these are no rows");
        goto end;
    }
    Py_BEGIN_ALLOW_THREADS
    const uint8_t *base = data.buf, *end = base + data.len, *at = base;
    const int32_t *spans = cells.buf, *row = rows.buf, *last = row + width * count;
    const Py_ssize_t texts = cells.buf ? cells.len / 8 : INT32_MAX, room = out.len / 4 / PIECE_WIDTH;
    int32_t *written = out.buf;
    for (Py_ssize_t number = 0; number < texts && (cells.buf || at < end); number++) {
        int32_t start, stop;
        if (cells.buf) {
            start = spans[2 * number];
            stop = spans[2 * number + 1];
        } else {
            const uint8_t *feed = line_end(at, end);
            start = (int32_t)(at - base);
            stop = (int32_t)(text_end(at, feed, end) - base);
            at = feed + (feed < end);
        }
        int32_t from = start, ordinal = 0;
        for (int more = 1; more;) {
            more = row < last && row[0] == number;
            const int32_t to = more ? row[HEAD] : stop, after = more ? row[HEAD + 1] : stop;
            const int32_t both[2][2] = {{from, to}, {to, after}};
            for (int which = 0; which < 1 + (more && keep); which++) {
                if (drop && both[which][0] == both[which][1]) continue;
                if (made >= room) {
                    full = 1;
                    goto done;
                }
                int32_t *piece = written + PIECE_WIDTH * made++;
                piece[0] = (int32_t)number;
                piece[1] = start;
                piece[2] = stop;
                piece[3] = ++ordinal;
                piece[4] = both[which][0];
                piece[5] = both[which][1];
            }
            from = after;
            row += more ? width : 0;
        }
        cut += ordinal > 1;
    }
done:;
    Py_END_ALLOW_THREADS
    if (full) {
        result = Py_None;
        Py_INCREF(result);
    } else {
        result = Py_BuildValue("nn", made, cut);
    }
end:
    if (cells.obj) PyBuffer_Release(&cells);
    PyBuffer_Release(&data);
    PyBuffer_Release(&rows);
    PyBuffer_Release(&out);
    return result;
}

enum { WHOLE = 0, CUT_OFF = 1, STRANGE = 2, CROWDED = 3 };

PyDoc_STRVAR(delimited_doc,
"delimited(data, final, delimiter, quote, width, longest, first_line, wanted, cells, raws, numbers, extra, most)\n"
"-> (status, at, rows, lines, used, ragged, ragged_rows, broken, broken_rows)\n\n"
"Find the rows of CSV in data (RFC 4180), quote -1 for none. For the columns wanted (int32, ascending) the place of each cell\n"
"is written to cells (int32 pairs, column by column, with the room of raws for each), for each row its place to raws (int32\n"
"pairs) and the number of its first line to numbers (int32); a cell with doubled quotes is written to extra, its place beyond data. Status:\n"
"0 all was read, 1 the last row is not complete (final says that nothing follows), 2 what stands at `at` is for Python to read,\n"
"3 no room is left. ragged and broken count rows of another width and with bytes that are no UTF-8; the numbers of the first\n"
"`most` of each are given.");

static int is_broken(const uint8_t *at, const uint8_t *end) {
    for (at = beyond_ascii(at, end); at < end; at = beyond_ascii(at, end)) {
        uint32_t code;
        int length = decoded(at, end, &code);
        if (length == 1) return 1;
        at += length;
    }
    return 0;
}

static PyObject *delimited(PyObject *module, PyObject *arguments) {
    Py_buffer data, wanted, cells, ends, numbers, extra;
    Py_ssize_t longest, most, rows = 0, used = 0;
    int final, delimiter, quote, width;
    long first_line, line;
    if (!PyArg_ParseTuple(arguments, "y*piiinly*w*w*w*w*n", &data, &final, &delimiter, &quote, &width, &longest,
                          &first_line, &wanted, &cells, &ends, &numbers, &extra, &most))
        return NULL;
    PyObject *ragged_rows = NULL, *broken_rows = NULL, *result = NULL;
    Noted ragged, broken;
    const Py_ssize_t room = ends.len / 8, columns = wanted.len / 4;
    const int32_t *want = wanted.buf;
    int32_t *cell = cells.buf, *raw_of = ends.buf, *number_of = numbers.buf;
    uint8_t *beside = extra.buf;
    const uint8_t *base = data.buf, *end = base + data.len, *at = base, *stopped = base;
    int status = WHOLE;
    line = first_line;
    if (!may_note(&ragged, most) | !may_note(&broken, most)) {
        PyErr_NoMemory();
        goto end;
    }
    if (cells.len / 8 < columns * room || numbers.len / 4 < room || data.len + extra.len > INT32_MAX) {
        PyErr_SetString(PyExc_ValueError, "there is too little room for rows, or too much text");
        goto end;
    }
    Py_BEGIN_ALLOW_THREADS
    const int ascii = beyond_ascii(base, end) == end;
    while (at < end) {
        const uint8_t *row = at;
        const long begins = line;
        Py_ssize_t filled = 0, before = used;
        int column = 0, ended = 0;
        if (rows >= room) {
            status = CROWDED;
            break;
        }
        if (*at == '\n' || (*at == '\r' && at + 1 < end && at[1] == '\n')) {
            at += 1 + (*at == '\r');
            line++;
            ended = 1;
        }
        while (!ended) {
            const uint8_t *start = at, *stop;
            int32_t place[2];
            int is_wanted = filled < columns && want[filled] == column;
            if (at < end && quote >= 0 && *at == quote) {
                Py_ssize_t doubled = 0;
                start = ++at;
                while (1) {
                    while (at < end && *at != quote) {
                        line += *at == '\n' || (*at == '\r' && at + 1 < end && at[1] != '\n');
                        at++;
                    }
                    if (at + 1 < end && at[1] == quote) {
                        doubled++;
                        at += 2;
                        continue;
                    }
                    break;
                }
                if (at >= end || (at + 1 >= end && !final)) {
                    status = final ? STRANGE : CUT_OFF;
                    break;
                }
                stop = at++;
                place[0] = (int32_t)(start - base);
                place[1] = (int32_t)(stop - base);
                if (doubled && is_wanted) {
                    if (used + (stop - start) > extra.len) {
                        status = CROWDED;
                        break;
                    }
                    place[0] = (int32_t)(data.len + used);
                    for (const uint8_t *each = start; each < stop; each++) {
                        beside[used++] = *each;
                        each += *each == quote;
                    }
                    place[1] = (int32_t)(data.len + used);
                }
                if (at < end && *at != delimiter && *at != '\n' && *at != '\r') {
                    status = STRANGE;
                    break;
                }
            } else {
                while (at < end && *at != delimiter && *at != '\n' && *at != '\r') at++;
                stop = at;
                place[0] = (int32_t)(start - base);
                place[1] = (int32_t)(stop - base);
            }
            if (at >= end) {
                if (!final) {
                    status = CUT_OFF;
                    break;
                }
                ended = 1;
            } else if (*at == '\r') {
                if (at + 1 >= end || at[1] != '\n') {
                    status = at + 1 >= end && !final ? CUT_OFF : STRANGE;
                    break;
                }
                at += 2;
                line++;
                ended = 1;
            } else if (*at == '\n') {
                at++;
                line++;
                ended = 1;
            } else {
                at++;
            }
            if (is_wanted) {
                memcpy(cell + 2 * (filled * room + rows), place, sizeof place);
                filled++;
            }
            column++;
        }
        if (status != WHOLE || at - row > longest) {
            if (status == WHOLE) status = STRANGE;
            line = begins;
            used = before;
            break;
        }
        for (; filled < columns; filled++) memset(cell + 2 * (filled * room + rows), 0, 8);
        if (column != width && !(width == 1 && column == 0)) note(&ragged, begins);
        if (!ascii && is_broken(row, at)) note(&broken, begins);
        raw_of[2 * rows] = (int32_t)(row - base);
        raw_of[2 * rows + 1] = (int32_t)(at - base);
        number_of[rows] = (int32_t)begins;
        rows++;
        stopped = at;
    }
    Py_END_ALLOW_THREADS
    ragged_rows = numbers_of(&ragged);
    broken_rows = ragged_rows ? numbers_of(&broken) : NULL;
    if (broken_rows)
        result = Py_BuildValue("innlnnOnO", status, (Py_ssize_t)(stopped - base), rows, line, used, ragged.count, ragged_rows,
                               broken.count, broken_rows);
end:
    PyMem_Free(ragged.numbers);
    PyMem_Free(broken.numbers);
    Py_XDECREF(ragged_rows);
    Py_XDECREF(broken_rows);
    PyBuffer_Release(&data);
    PyBuffer_Release(&wanted);
    PyBuffer_Release(&cells);
    PyBuffer_Release(&ends);
    PyBuffer_Release(&numbers);
    PyBuffer_Release(&extra);
    return result;
}

PyDoc_STRVAR(doubt_doc,
"doubt(data, cells, fits, blanks, required, doubted)\n\n"
"Set the byte of each text in doubted that is surely not to be accepted, or may not be: one that does not fit (int16 below 0)\n"
"and is not blank, or is blank and required. Blank are white space and the texts of blanks (list of bytes); white space beyond\n"
"ASCII leaves a text in doubt.");

static int is_blank(const uint8_t *at, const uint8_t *end, const Listed *blanks, Py_ssize_t count) {
    int maybe = 0;
    const uint8_t *each = at;
    for (; each < end; each++) {
        if (*each >= 0x80) maybe = 1;
        else if (*each != ' ' && !(*each >= 9 && *each <= 13) && !(*each >= 28 && *each <= 31)) break;
    }
    if (each == end) return maybe ? 2 : 1;
    for (Py_ssize_t number = 0; number < count; number++)
        if (blanks[number].size == end - at && !memcmp(blanks[number].text, at, end - at)) return 1;
    return 0;
}

static PyObject *doubt(PyObject *module, PyObject *arguments) {
    Py_buffer data, cells = {0}, fits, doubted;
    PyObject *cells_given, *blanks_given, *result = NULL;
    Listed *blanks = NULL;
    int required;
    if (!PyArg_ParseTuple(arguments, "y*Oy*Opw*", &data, &cells_given, &fits, &blanks_given, &required, &doubted))
        return NULL;
    if (cells_given != Py_None && PyObject_GetBuffer(cells_given, &cells, PyBUF_SIMPLE) < 0) goto end;
    Py_ssize_t count = PyList_Size(blanks_given), texts = fits.len / 2;
    if (count < 0) goto end;
    if (doubted.len < texts || (cells.buf && cells.len / 8 < texts)) {
        PyErr_SetString(PyExc_ValueError, "there are fewer cells than texts");
        goto end;
    }
    blanks = PyMem_Calloc(count ? count : 1, sizeof(Listed));
    if (!blanks) {
        PyErr_NoMemory();
        goto end;
    }
    for (Py_ssize_t each = 0; each < count; each++) {
        char *bytes;
        if (PyBytes_AsStringAndSize(PyList_GetItem(blanks_given, each), &bytes, &blanks[each].size) < 0) goto end;
        blanks[each].text = (const uint8_t *)bytes;
    }
    Py_BEGIN_ALLOW_THREADS
    const uint8_t *base = data.buf, *end = base + data.len, *at = base;
    const int32_t *spans = cells.buf;
    const int16_t *fit = fits.buf;
    uint8_t *out = doubted.buf;
    for (Py_ssize_t number = 0; number < texts && (spans || at < end); number++) {
        const uint8_t *start = at, *stop;
        if (spans) {
            start = base + spans[2 * number];
            stop = base + spans[2 * number + 1];
        } else {
            const uint8_t *feed = line_end(at, end);
            stop = text_end(at, feed, end);
            at = feed + (feed < end);
        }
        if (fit[number] >= 0 && !required) continue;
        if (fit[number] < 0 && required) {
            out[number] = 1;
            continue;
        }
        int blank = is_blank(start, stop, blanks, count);
        if (required ? blank : blank != 1) out[number] = 1;
    }
    Py_END_ALLOW_THREADS
    result = Py_None;
    Py_INCREF(result);
end:
    PyMem_Free(blanks);
    if (cells.obj) PyBuffer_Release(&cells);
    PyBuffer_Release(&data);
    PyBuffer_Release(&fits);
    PyBuffer_Release(&doubted);
    return result;
}

PyDoc_STRVAR(mark_doc,
"mark(rows, width, count, refused, out)\n\nWrite 0 to out (int16, one a text) for each text of which a row is not refused.");

static PyObject *mark_texts(PyObject *module, PyObject *arguments) {
    Py_buffer rows, refused, out;
    Py_ssize_t width, count;
    if (!PyArg_ParseTuple(arguments, "y*nny*w*", &rows, &width, &count, &refused, &out)) return NULL;
    int fine = width >= HEAD && count >= 0 && rows.len / 4 >= width * count && (!refused.len || refused.len >= count);
    const int32_t *row = rows.buf;
    const uint8_t *skip = refused.buf;
    for (Py_ssize_t each = 0; fine && each < count; each++, row += width) {
        if (refused.len && skip[each]) continue;
        fine = row[0] >= 0 && row[0] < out.len / 2;
        if (fine) ((int16_t *)out.buf)[row[0]] = 0;
    }
    PyBuffer_Release(&rows);
    PyBuffer_Release(&refused);
    PyBuffer_Release(&out);
    if (!fine) {
        PyErr_SetString(PyExc_ValueError, "these are no rows of these texts");
        return NULL;
    }
    Py_RETURN_NONE;
}

/* JSON (RFC 8259) as far as it is surely what Python reads: whatever is not is left to Python, line by line. */
#define DEEPEST 50
#define LONGEST_NUMBER 18

typedef struct {
    const uint8_t *at, *end;
} Scan;

static inline void past_blanks(Scan *scan) {
    while (scan->at < scan->end && (*scan->at == ' ' || *scan->at == '\t' || *scan->at == '\r' || *scan->at == '\n')) scan->at++;
}

static int hex_at(const uint8_t *at, const uint8_t *end, uint32_t *unit) {
    *unit = 0;
    if (end - at < 4) return 0;
    for (int each = 0; each < 4; each++) {
        int byte = at[each] | 0x20;
        if (at[each] >= '0' && at[each] <= '9') *unit = *unit << 4 | (uint32_t)(at[each] - '0');
        else if (byte >= 'a' && byte <= 'f') *unit = *unit << 4 | (uint32_t)(byte - 'a' + 10);
        else return 0;
    }
    return 1;
}

/* Pass over a string whose quote is next; tell where it stands and whether it has escapes. */
static int past_string(Scan *scan, const uint8_t **start, const uint8_t **stop, int *escaped) {
    const uint8_t *at = scan->at + 1, *end = scan->end;
    *start = at;
    *escaped = 0;
    for (; at < end && *at != '"'; at++) {
        if (*at < 0x20) return 0;
        if (*at != '\\') continue;
        uint32_t unit;
        *escaped = 1;
        if (++at >= end) return 0;
        if (*at == 'u') {
            if (!hex_at(at + 1, end, &unit)) return 0;
            at += 4;
        } else if (!strchr("\"\\/bfnrt", *at) || !*at) {
            return 0;
        }
    }
    if (at >= end) return 0;
    *stop = at;
    scan->at = at + 1;
    return 1;
}

/* Pass over a number; tell whether it is written as Python writes it. */
static int past_number(Scan *scan, int *plain) {
    const uint8_t *at = scan->at, *end = scan->end, *first = at;
    int fraction = 0;
    if (at < end && *at == '-') at++;
    const uint8_t *digits = at;
    while (at < end && *at >= '0' && *at <= '9') at++;
    if (at == digits || (*digits == '0' && at - digits > 1)) return 0;
    *plain = !(*first == '-' && *digits == '0' && at - digits == 1);
    if (at < end && *at == '.') {
        for (at++; at < end && *at >= '0' && *at <= '9'; at++) fraction++;
        if (!fraction) return 0;
        *plain = fraction <= MOST_FRACTION;
    }
    if (at < end && (*at == 'e' || *at == 'E')) return 0;
    if (at - first > LONGEST_NUMBER) return 0;
    scan->at = at;
    return 1;
}

static int past_word(Scan *scan, const char *word) {
    size_t size = strlen(word);
    if ((size_t)(scan->end - scan->at) < size || memcmp(scan->at, word, size)) return 0;
    scan->at += size;
    return 1;
}

static int past_value(Scan *scan, int depth) {
    const uint8_t *start, *stop;
    int unused;
    past_blanks(scan);
    if (scan->at >= scan->end || depth > DEEPEST) return 0;
    switch (*scan->at) {
    case '"': return past_string(scan, &start, &stop, &unused);
    case 't': return past_word(scan, "true");
    case 'f': return past_word(scan, "false");
    case 'n': return past_word(scan, "null");
    case '{':
    case '[': {
        const int object = *scan->at == '{';
        const uint8_t closing = object ? '}' : ']';
        scan->at++;
        past_blanks(scan);
        if (scan->at < scan->end && *scan->at == closing) {
            scan->at++;
            return 1;
        }
        while (1) {
            if (object) {
                past_blanks(scan);
                if (scan->at >= scan->end || *scan->at != '"' || !past_string(scan, &start, &stop, &unused)) return 0;
                past_blanks(scan);
                if (scan->at >= scan->end || *scan->at++ != ':') return 0;
            }
            if (!past_value(scan, depth + 1)) return 0;
            past_blanks(scan);
            if (scan->at >= scan->end) return 0;
            if (*scan->at == closing) {
                scan->at++;
                return 1;
            }
            if (*scan->at++ != ',') return 0;
        }
    }
    default: return past_number(scan, &unused);
    }
}

static int utf8_of(uint32_t code, uint8_t *into) {
    if (code < 0x80) {
        into[0] = (uint8_t)code;
        return 1;
    }
    if (code < 0x800) {
        into[0] = (uint8_t)(0xC0 | code >> 6);
        into[1] = (uint8_t)(0x80 | (code & 0x3F));
        return 2;
    }
    if (code < 0x10000) {
        into[0] = (uint8_t)(0xE0 | code >> 12);
        into[1] = (uint8_t)(0x80 | (code >> 6 & 0x3F));
        into[2] = (uint8_t)(0x80 | (code & 0x3F));
        return 3;
    }
    into[0] = (uint8_t)(0xF0 | code >> 18);
    into[1] = (uint8_t)(0x80 | (code >> 12 & 0x3F));
    into[2] = (uint8_t)(0x80 | (code >> 6 & 0x3F));
    into[3] = (uint8_t)(0x80 | (code & 0x3F));
    return 4;
}

/* Write a string without its escapes; it never becomes longer. Return its length, -1 where half of a pair stands alone. */
static Py_ssize_t unescaped(const uint8_t *at, const uint8_t *stop, uint8_t *into) {
    uint8_t *written = into;
    while (at < stop) {
        if (*at != '\\') {
            *written++ = *at++;
            continue;
        }
        at++;
        if (*at != 'u') {
            const char *spelled = "\"\\/bfnrt", *meant = "\"\\/\b\f\n\r\t";
            *written++ = (uint8_t)meant[strchr(spelled, *at++) - spelled];
            continue;
        }
        uint32_t unit, low;
        if (!hex_at(at + 1, stop, &unit)) return -1;
        at += 5;
        if (unit >= 0xD800 && unit < 0xE000) {
            if (unit >= 0xDC00 || stop - at < 6 || at[0] != '\\' || at[1] != 'u' || !hex_at(at + 2, stop, &low) ||
                low < 0xDC00 || low > 0xDFFF)
                return -1;
            unit = 0x10000 + ((unit - 0xD800) << 10 | (low - 0xDC00));
            at += 6;
        }
        written += utf8_of(unit, written);
    }
    return written - into;
}

PyDoc_STRVAR(keyed_doc,
"keyed(data, key, cells, raws, extra) -> (lines, used, odd)\n\n"
"Find the value of a key in each line of data, an object of JSON: its place is written to cells (int32 pairs), that of the\n"
"line to raws. A string with escapes is written to extra without them, its place beyond data. odd are the numbers (from 0)\n"
"of the lines that are left to Python.");

static int keyed_line(const uint8_t *base, Scan *scan, const Py_buffer *key, int32_t *cell, uint8_t *extra,
                      Py_ssize_t size, Py_ssize_t room, Py_ssize_t *used) {
    int found = 0;
    past_blanks(scan);
    if (scan->at >= scan->end || *scan->at != '{') return 0;
    scan->at++;
    past_blanks(scan);
    if (scan->at < scan->end && *scan->at == '}') return 0;
    while (1) {
        const uint8_t *start, *stop;
        int escaped, plain = 1;
        past_blanks(scan);
        if (scan->at >= scan->end || *scan->at != '"' || !past_string(scan, &start, &stop, &escaped) || escaped) return 0;
        int is_key = stop - start == key->len && !memcmp(start, key->buf, key->len);
        past_blanks(scan);
        if (scan->at >= scan->end || *scan->at++ != ':') return 0;
        past_blanks(scan);
        if (!is_key) {
            if (!past_value(scan, 1)) return 0;
        } else if (scan->at < scan->end && *scan->at == '"') {
            if (!past_string(scan, &start, &stop, &escaped)) return 0;
            found = 1;
            cell[0] = (int32_t)(start - base);
            cell[1] = (int32_t)(stop - base);
            if (escaped) {
                if (room - *used < stop - start) return 0;
                Py_ssize_t length = unescaped(start, stop, extra + *used);
                if (length < 0) return 0;
                cell[0] = (int32_t)(size + *used);
                cell[1] = (int32_t)(cell[0] + length);
                *used += length;
            }
        } else {
            start = scan->at;
            if (start < scan->end && (*start == 't' || *start == 'f')) {
                if (!past_value(scan, 1)) return 0;
            } else if (!past_number(scan, &plain) || !plain) {
                return 0;
            }
            found = 1;
            cell[0] = (int32_t)(start - base);
            cell[1] = (int32_t)(scan->at - base);
        }
        past_blanks(scan);
        if (scan->at >= scan->end) return 0;
        if (*scan->at == '}') break;
        if (*scan->at++ != ',') return 0;
    }
    scan->at++;
    past_blanks(scan);
    return found && scan->at == scan->end;
}

static PyObject *keyed(PyObject *module, PyObject *arguments) {
    Py_buffer data, key, cells, raws, extra;
    Py_ssize_t lines = 0, used = 0;
    if (!PyArg_ParseTuple(arguments, "y*y*w*w*w*", &data, &key, &cells, &raws, &extra)) return NULL;
    PyObject *numbers = NULL, *result = NULL;
    Noted odd;
    int has_room = 1;
    const uint8_t *base = data.buf, *at = base, *end = base + data.len;
    const Py_ssize_t room = cells.len / 8 < raws.len / 8 ? cells.len / 8 : raws.len / 8;
    int32_t *cell = cells.buf, *raw = raws.buf;
    if (!may_note(&odd, room)) {
        PyErr_NoMemory();
        goto end;
    }
    if (data.len + extra.len > INT32_MAX) {
        PyErr_SetString(PyExc_ValueError, "a block of text is too long");
        goto end;
    }
    Py_BEGIN_ALLOW_THREADS
    while (at < end && (has_room = lines < room)) {
        const uint8_t *feed = line_end(at, end);
        Scan scan = {at, text_end(at, feed, end)};
        raw[2 * lines] = (int32_t)(at - base);
        at = feed + (feed < end);
        raw[2 * lines + 1] = (int32_t)(at - base);
        cell[2 * lines] = cell[2 * lines + 1] = 0;
        if (!keyed_line(base, &scan, &key, cell + 2 * lines, extra.buf, data.len, extra.len, &used)) note(&odd, (long)lines);
        lines++;
    }
    Py_END_ALLOW_THREADS
    if (!has_room) {
        PyErr_SetString(PyExc_ValueError, "there is too little room for the lines");
        goto end;
    }
    numbers = numbers_of(&odd);
    if (numbers) result = Py_BuildValue("nnO", lines, used, numbers);
end:
    PyMem_Free(odd.numbers);
    Py_XDECREF(numbers);
    PyBuffer_Release(&data);
    PyBuffer_Release(&key);
    PyBuffer_Release(&cells);
    PyBuffer_Release(&raws);
    PyBuffer_Release(&extra);
    return result;
}

/* Values of the cells of a column as Arrow stores them; cells are written as their types are, by what judged them. */
enum { OF_NUMBER = 0, OF_DATE = 1, OF_TIME = 2, OF_STAMP = 3, OF_BOOLEAN = 4 };

static int number_of(const uint8_t *at, const uint8_t *end, long long *value, int *digits, int *fraction) {
    int negative = at < end && *at == '-', seen = 0;
    *value = 0;
    *digits = 0;
    *fraction = -1;
    for (at += negative; at < end; at++) {
        if (*at == '.' && *fraction < 0) {
            *fraction = 0;
            continue;
        }
        if (*at < '0' || *at > '9' || ++seen > MOST_DIGITS) return 0;
        *value = *value * 10 + (*at - '0');
        *digits += *value != 0;
        *fraction += *fraction >= 0;
    }
    if (*fraction < 0) *fraction = 0;
    if (negative) *value = -*value;
    return seen > 0;
}

static int moment_of(const uint8_t *at, const uint8_t *end, int kind, Day *before, long long *value, int *has_offset,
                     int *zone) {
    int hour, minute, second, fraction = 0, ahead, minutes;
    long long found = 0;
    *has_offset = 0;
    if (kind != OF_TIME) {
        if (!day_at(at, end, before, &found)) return 0;
        at += 10;
        if (kind == OF_DATE) {
            *value = found;
            return at == end;
        }
        found *= 86400000000LL;
        if (at >= end || *at++ != 'T') return 0;
    }
    if (!digits_at(at, end, 2, &hour) || !digits_at(at + 3, end, 2, &minute) || !digits_at(at + 6, end, 2, &second)) return 0;
    at += 8;
    if (at < end && *at == '.') {
        if (!digits_at(at + 1, end, 6, &fraction)) return 0;
        at += 7;
    }
    found += ((hour * 60LL + minute) * 60 + second) * 1000000 + fraction;
    if (at < end) {
        int sign = *at;
        if (end - at != 6 || !digits_at(at + 1, end, 2, &ahead) || !digits_at(at + 4, end, 2, &minutes)) return 0;
        *zone = (sign == '-' ? -1 : 1) * (ahead * 60 + minutes);
        found -= 60000000LL * *zone;
        *has_offset = 1;
    }
    *value = found;
    return 1;
}

PyDoc_STRVAR(values_doc,
"values(data, side, rows, width, count, refused, index, kind, out, valid) -> (values, nulls, whole, fraction, with, without, zone) or None\n\n"
"Write the values of a column to out: int64 for numbers (all scaled to `fraction` digits after the point), microseconds and\n"
"timestamps (UTC where they have an offset), int32 for days, bits for booleans; and a bit for each that is not absent to valid.\n"
"with and without count those with and without an offset, which is `zone` minutes. None where a cell is no value that is held\n"
"so, or offsets differ.");

static PyObject *values(PyObject *module, PyObject *arguments) {
    Py_buffer data, side, rows, refused, out, valid;
    Py_ssize_t width, count, made = 0, nulls = 0, with_offset = 0, without_offset = 0;
    int index, kind, whole = 1, most_fraction = 0, zone = 0, fine;
    if (!PyArg_ParseTuple(arguments, "y*y*y*nny*iiw*w*", &data, &side, &rows, &width, &count, &refused, &index, &kind, &out,
                          &valid))
        return NULL;
    PyObject *result = NULL;
    Day before = {{0}, 0, 0};
    uint8_t *scales = PyMem_Malloc(count > 0 ? count : 1);
    fine = scales && width >= HEAD && index >= 0 && index + 1 < width && count >= 0 && rows.len / 4 >= width * count &&
           (!refused.len || refused.len >= count) && out.len / 8 >= count && valid.len >= (count + 7) / 8;
    if (!fine) {
        PyErr_SetString(PyExc_ValueError, "these are no rows, or there is too little room for their values");
        goto end;
    }
    Py_BEGIN_ALLOW_THREADS
    const uint8_t *skip = refused.buf;
    int64_t *numbers = out.buf;
    int32_t *days = out.buf;
    uint8_t *bits = out.buf, *is_there = valid.buf;
    memset(is_there, 0, valid.len);
    memset(bits, 0, out.len);
    for (Py_ssize_t number = 0; number < count && fine; number++) {
        const int32_t *row = (const int32_t *)rows.buf + number * width;
        if (refused.len && skip[number]) continue;
        int32_t start = row[index], stop = row[index + 1];
        if (start < 0 || stop < 0) {
            scales[made] = 0;
            nulls++;
            made++;
            continue;
        }
        const int beside = start >= data.len;
        const uint8_t *text = beside ? (const uint8_t *)side.buf + (start - data.len) : (const uint8_t *)data.buf + start;
        if (stop < start || stop > data.len + (beside ? side.len : 0)) {
            fine = 0;
            break;
        }
        const uint8_t *end = text + (stop - start);
        long long value = 0;
        int digits, fraction, offset = 0;
        if (kind == OF_NUMBER) {
            fine = number_of(text, end, &value, &digits, &fraction);
            scales[made] = (uint8_t)fraction;
            if (fine && digits - fraction > whole) whole = digits - fraction;
            if (fine && fraction > most_fraction) most_fraction = fraction;
        } else if (kind == OF_BOOLEAN) {
            fine = stop - start == 4 || stop - start == 5;
            value = stop - start == 4;
        } else {
            int here = 0;
            fine = moment_of(text, end, kind, &before, &value, &offset, &here) && (!offset || !with_offset || here == zone);
            if (offset) zone = here;
            with_offset += offset;
            without_offset += !offset;
        }
        if (kind == OF_DATE) days[made] = (int32_t)value;
        else if (kind == OF_BOOLEAN) bits[made / 8] |= (uint8_t)(value << (made % 8));
        else numbers[made] = value;
        is_there[made / 8] |= (uint8_t)(1 << (made % 8));
        made++;
    }
    if (kind == OF_NUMBER && whole + most_fraction > MOST_DIGITS) fine = 0;
    for (Py_ssize_t each = 0; kind == OF_NUMBER && fine && each < made; each++)
        for (int digits = scales[each]; digits < most_fraction; digits++) numbers[each] *= 10;
    Py_END_ALLOW_THREADS
    if (fine) {
        result = Py_BuildValue("nniinni", made, nulls, whole, most_fraction, with_offset, without_offset, zone);
    } else {
        result = Py_None;
        Py_INCREF(result);
    }
end:
    PyMem_Free(scales);
    PyBuffer_Release(&data);
    PyBuffer_Release(&side);
    PyBuffer_Release(&rows);
    PyBuffer_Release(&refused);
    PyBuffer_Release(&out);
    PyBuffer_Release(&valid);
    return result;
}

PyDoc_STRVAR(texts_doc,
"texts(data, side, rows, width, count, refused, index, offsets, valid) -> (values, nulls, bytes) or None\n\n"
"Write the texts of a column as Arrow stores them: int32 offsets, a bit for each that is not absent, and all the bytes. None\n"
"where one is no UTF-8.");

static PyObject *texts_of(PyObject *module, PyObject *arguments) {
    Py_buffer data, side, rows, refused, offsets, valid;
    Py_ssize_t width, count, made = 0, nulls = 0;
    int index, fine, odd = 0;
    if (!PyArg_ParseTuple(arguments, "y*y*y*nny*iw*w*", &data, &side, &rows, &width, &count, &refused, &index, &offsets,
                          &valid))
        return NULL;
    PyObject *result = NULL;
    Text text = {NULL, NULL, NULL, 0};
    fine = width >= HEAD && index >= 0 && index + 1 < width && count >= 0 && rows.len / 4 >= width * count &&
           (!refused.len || refused.len >= count) && offsets.len / 4 > count && valid.len >= (count + 7) / 8;
    if (!fine) {
        PyErr_SetString(PyExc_ValueError, "these are no rows, or there is too little room for their texts");
        goto end;
    }
    Py_BEGIN_ALLOW_THREADS
    const uint8_t *skip = refused.buf;
    int32_t *offset = offsets.buf;
    uint8_t *is_there = valid.buf;
    memset(is_there, 0, valid.len);
    offset[0] = 0;
    for (Py_ssize_t number = 0; number < count && !odd && !text.failed; number++) {
        const int32_t *row = (const int32_t *)rows.buf + number * width;
        if (refused.len && skip[number]) continue;
        int32_t start = row[index], stop = row[index + 1];
        if (start >= 0 && stop >= start && stop <= data.len + side.len) {
            const uint8_t *at = start >= data.len ? (const uint8_t *)side.buf + (start - data.len)
                                                  : (const uint8_t *)data.buf + start;
            odd = is_broken(at, at + (stop - start));
            put(&text, at, stop - start);
            is_there[made / 8] |= (uint8_t)(1 << (made % 8));
        } else {
            nulls++;
        }
        offset[++made] = (int32_t)(text.at - text.start);
    }
    Py_END_ALLOW_THREADS
    if (text.failed) {
        PyErr_NoMemory();
    } else if (odd) {
        result = Py_None;
        Py_INCREF(result);
    } else {
        result = Py_BuildValue("nny#", made, nulls, text.start ? text.start : "", (Py_ssize_t)(text.at - text.start));
    }
end:
    free(text.start);
    PyBuffer_Release(&data);
    PyBuffer_Release(&side);
    PyBuffer_Release(&rows);
    PyBuffer_Release(&refused);
    PyBuffer_Release(&offsets);
    PyBuffer_Release(&valid);
    return result;
}

PyDoc_STRVAR(strings_doc,
"strings(data, cells) -> list of str\n\n"
"Return the texts at cells (int32 pairs of start and end), bytes that are no UTF-8 as Python's surrogateescape has them.");

static PyObject *strings(PyObject *module, PyObject *arguments) {
    Py_buffer data, cells;
    if (!PyArg_ParseTuple(arguments, "y*y*", &data, &cells)) return NULL;
    const int32_t *span = cells.buf;
    const Py_ssize_t count = cells.len / 8;
    PyObject *found = PyList_New(count);
    for (Py_ssize_t each = 0; found && each < count; each++) {
        int32_t start = span[2 * each], stop = span[2 * each + 1];
        PyObject *text = NULL;
        if (start < 0 || stop < start || stop > data.len) PyErr_SetString(PyExc_ValueError, "cells that stand nowhere");
        else text = PyUnicode_DecodeUTF8((const char *)data.buf + start, stop - start, "surrogateescape");
        if (!text || PyList_SetItem(found, each, text) < 0) {
            Py_DECREF(found);
            found = NULL;
        }
    }
    PyBuffer_Release(&data);
    PyBuffer_Release(&cells);
    return found;
}

PyDoc_STRVAR(lined_doc,
"lined(data, cells) -> bytes\n\nPut the texts at cells (int32 pairs of start and end) one after the other, each ended by a line feed.");

static PyObject *lined(PyObject *module, PyObject *arguments) {
    Py_buffer data, cells;
    if (!PyArg_ParseTuple(arguments, "y*y*", &data, &cells)) return NULL;
    const int32_t *span = cells.buf;
    const Py_ssize_t count = cells.len / 8;
    const char *base = data.buf;
    PyObject *made = NULL;
    Py_ssize_t size = count;
    for (Py_ssize_t each = 0; each < count; each++) {
        if (span[2 * each] < 0 || span[2 * each + 1] < span[2 * each] || span[2 * each + 1] > data.len) {
            PyErr_SetString(PyExc_ValueError, "cells that stand nowhere");
            goto end;
        }
        size += span[2 * each + 1] - span[2 * each];
    }
    made = PyBytes_FromStringAndSize(NULL, size);
    if (made) {
        char *at = PyBytes_AsString(made);
        for (Py_ssize_t each = 0; each < count; each++) {
            const Py_ssize_t length = span[2 * each + 1] - span[2 * each];
            memcpy(at, base + span[2 * each], length);
            at += length;
            *at++ = '\n';
        }
    }
end:
    PyBuffer_Release(&data);
    PyBuffer_Release(&cells);
    return made;
}

#define MOST_TENS 38 /* digits of the longest decimal of 16 bytes */

PyDoc_STRVAR(widened_doc,
"widened(values, tens) -> bytes\n\nReturn int64 values times a power of ten as integers of 16 bytes, for decimals.");

static PyObject *widened(PyObject *module, PyObject *arguments) {
    Py_buffer given;
    int tens;
    if (!PyArg_ParseTuple(arguments, "y*i", &given, &tens)) return NULL;
    const Py_ssize_t count = given.len / 8;
    PyObject *made = tens >= 0 && tens <= MOST_TENS ? PyBytes_FromStringAndSize(NULL, 16 * count) : NULL;
    if (made) {
        char *at = PyBytes_AsString(made);
        const int64_t *values = given.buf;
        /* Where there is no value, what stands for it may be too large: it is never looked at. */
        const unsigned __int128 by = (unsigned __int128)scaled(1, tens);
        for (Py_ssize_t each = 0; each < count; each++) {
            const unsigned __int128 wide = (unsigned __int128)values[each] * by;
            memcpy(at + 16 * each, &wide, 16);
        }
    } else if (!PyErr_Occurred()) {
        PyErr_SetString(PyExc_ValueError, "a power of ten that is too large");
    }
    PyBuffer_Release(&given);
    return made;
}

static uint32_t crc_tables[8][256];

/* What eight bytes more make of a checksum of RFC 1952, section 8. */
static inline uint32_t checked(uint32_t found, const uint8_t *at) {
    found ^= (uint32_t)at[0] | (uint32_t)at[1] << 8 | (uint32_t)at[2] << 16 | (uint32_t)at[3] << 24;
    return crc_tables[7][found & 255] ^ crc_tables[6][found >> 8 & 255] ^ crc_tables[5][found >> 16 & 255] ^
           crc_tables[4][found >> 24] ^ crc_tables[3][at[4]] ^ crc_tables[2][at[5]] ^ crc_tables[1][at[6]] ^
           crc_tables[0][at[7]];
}

static inline uint32_t checked_by_tables(uint32_t found, const uint8_t *at, Py_ssize_t size) {
    for (; size >= 8; size -= 8, at += 8) found = checked(found, at);
    for (; size > 0; size--, at++) found = crc_tables[0][(found ^ *at) & 255] ^ found >> 8;
    return ~found;
}

#ifdef MAY_MULTIPLY
/* Whether the processor multiplies without carries. */
static int multiplies;

/* The checksum of a text of sixteen bytes or more: the first ones, with zeros before them, which tell nothing, and each sixteen
 * that follows are folded into the next, the last one divided (V. Gopal et al., "Fast CRC Computation for Generic Polynomials
 * Using PCLMULQDQ Instruction", 2009, with its constants for RFC 1952).
 */
__attribute__((target("pclmul,sse4.1"))) static uint32_t multiplied(const uint8_t *at, Py_ssize_t size) {
    static const uint8_t shifts[48] = {
        0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80,
        0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15,
        0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80, 0x80,
    };
    const __m128i fold = _mm_set_epi64x(0x0CCAA009E, 0x1751997D0), last = _mm_cvtsi64_si128(0x163CD6124);
    const __m128i divide = _mm_set_epi64x(0x1F7011641, 0x1DB710641), low = _mm_cvtsi64_si128(0xFFFFFFFF);
    const uint8_t *end = at + size;
    const int head = (int)((size - 1) & 15) + 1;
    const __m128i before = _mm_loadu_si128((const __m128i *)(shifts + head));
    const __m128i beyond = _mm_loadu_si128((const __m128i *)(shifts + 16 + head));
    /* A checksum begins with the first four bytes turned round; where the head has fewer, some are of the next sixteen. */
    __m128i all = _mm_shuffle_epi8(_mm_xor_si128(_mm_loadu_si128((const __m128i *)at), low), before);
    __m128i more = _mm_shuffle_epi8(low, beyond);
    for (at += head; at < end; at += 16) {
        const __m128i folded = _mm_xor_si128(_mm_clmulepi64_si128(all, fold, 0x00), _mm_clmulepi64_si128(all, fold, 0x11));
        all = _mm_xor_si128(_mm_xor_si128(folded, more), _mm_loadu_si128((const __m128i *)at));
        more = _mm_setzero_si128();
    }
    all = _mm_xor_si128(_mm_clmulepi64_si128(all, fold, 0x10), _mm_srli_si128(all, 8));
    all = _mm_xor_si128(_mm_clmulepi64_si128(_mm_and_si128(all, low), last, 0x00), _mm_srli_si128(all, 4));
    const __m128i times = _mm_and_si128(_mm_clmulepi64_si128(_mm_and_si128(all, low), divide, 0x10), low);
    return ~(uint32_t)_mm_extract_epi32(_mm_xor_si128(_mm_clmulepi64_si128(times, divide, 0x00), all), 1);
}
#endif

static inline uint32_t checksum(const uint8_t *at, Py_ssize_t size) {
#ifdef MAY_MULTIPLY
    if (multiplies && size >= 16) return multiplied(at, size);
#endif
    return checked_by_tables(0xFFFFFFFFu, at, size);
}

static void make_checksums(void) {
#ifdef MAY_MULTIPLY
    multiplies = __builtin_cpu_supports("pclmul") && __builtin_cpu_supports("sse4.1");
#endif
#ifdef MAY_BE_WIDE
    is_wide = __builtin_cpu_supports("avx2");
#endif
    for (uint32_t byte = 0; byte < 256; byte++) {
        uint32_t found = byte;
        for (int bit = 0; bit < 8; bit++) found = found & 1 ? 0xEDB88320u ^ found >> 1 : found >> 1;
        crc_tables[0][byte] = found;
    }
    for (int table = 1; table < 8; table++)
        for (uint32_t byte = 0; byte < 256; byte++)
            crc_tables[table][byte] = crc_tables[0][crc_tables[table - 1][byte] & 255] ^ crc_tables[table - 1][byte] >> 8;
}

PyDoc_STRVAR(sketch_doc,
"sketch(data, ends, multiplier, kept, most) -> bytes\n\n"
"Return the smallest of the checksums of lines (RFC 1952), times multiplier modulo 2**32, and of those kept before (uint32,\n"
"ascending, each once): `most` of them. ends is what `survey` tells of lines.");

static int by_size(const void *one, const void *two) {
    const uint32_t left = *(const uint32_t *)one, right = *(const uint32_t *)two;
    return (left > right) - (left < right);
}

/* Write the hashes of lines that are below a bound to `below`; return how many they are. */
static Py_ssize_t hashes_below(const uint8_t *base, Py_ssize_t size, const int32_t *end, Py_ssize_t lines, uint32_t by,
                               uint64_t bound, uint32_t *below) {
    Py_ssize_t few = 0;
    for (Py_ssize_t line = 0; line < lines; line++) {
        Py_ssize_t bytes;
        const uint8_t *at = line_at(base, base + size, end, line, &bytes);
        below[few] = checksum(at, bytes) * by;
        few += below[few] < bound;
    }
    return few;
}

static PyObject *sketch(PyObject *module, PyObject *arguments) {
    Py_buffer data, ends, kept;
    unsigned int multiplier;
    Py_ssize_t most;
    if (!PyArg_ParseTuple(arguments, "y*y*Iy*n", &data, &ends, &multiplier, &kept, &most)) return NULL;
    PyObject *found = NULL;
    const uint32_t *before = kept.buf;
    const Py_ssize_t lines = ends.len / 4, known = kept.len / 4;
    uint32_t *below = PyMem_Malloc(4 * (lines + 1)), *made = most > 0 ? PyMem_Malloc(4 * most) : NULL;
    Py_ssize_t count = 0;
    if (!below || !made || known > most) {
        PyErr_NoMemory();
        goto end;
    }
    if (!are_ends(&ends, 0, 0, data.len)) {
        PyErr_SetString(PyExc_ValueError, "lines that end nowhere");
        goto end;
    }
    Py_BEGIN_ALLOW_THREADS
    const uint64_t bound = known == most ? before[known - 1] : UINT64_C(1) << 32;
    const Py_ssize_t few = hashes_below(data.buf, data.len, ends.buf, lines, multiplier, bound, below);
    qsort(below, few, sizeof *below, by_size);
    for (Py_ssize_t old = 0, new = 0; count < most && (old < known || new < few);) {
        const uint32_t next = new == few || (old < known && before[old] < below[new]) ? before[old] : below[new];
        made[count++] = next;
        old += old < known && before[old] == next;
        while (new < few && below[new] == next) new++;
    }
    Py_END_ALLOW_THREADS
    found = PyBytes_FromStringAndSize((const char *)made, 4 * count);
end:
    PyMem_Free(below);
    PyMem_Free(made);
    PyBuffer_Release(&data);
    PyBuffer_Release(&ends);
    PyBuffer_Release(&kept);
    return found;
}

/* A number for texts, made of sixteen bytes at a time, of which all bits differ where texts do; the multiplier is that of Knuth,
 * TAOCP 3, 6.4.
 */
typedef struct {
    uint64_t one, two;
} Scatter;

static const uint64_t SCATTER = UINT64_C(0x9E3779B97F4A7C15);

static inline void scatter_by(Scatter *found, const uint8_t *at) {
    uint64_t word[2];
    memcpy(word, at, 16);
    found->one = (found->one ^ word[0]) * SCATTER;
    found->two = (found->two ^ word[1]) * SCATTER;
    found->one ^= found->one >> 29;
    found->two ^= found->two >> 31;
}

static inline uint64_t scattered_to(const Scatter *found) {
    const uint64_t made = (found->one ^ (found->two << 32 | found->two >> 32)) * SCATTER;
    const uint64_t folded = made ^ made >> 32;
    /* No text has zero, which stands where there is no number. */
    return folded + !folded;
}

/* The number of a text; its last bytes are taken in once more where they are no sixteen. */
static uint64_t scattered(const uint8_t *at, Py_ssize_t size) {
    Scatter found = {(uint64_t)size * SCATTER, SCATTER};
    uint8_t few[16] = {0};
    const uint8_t *end = at + size;
    for (; end - at >= 16; at += 16) scatter_by(&found, at);
    if (at < end && size >= 16) scatter_by(&found, end - 16);
    if (size < 16) {
        for (Py_ssize_t each = 0; each < size; each++) few[each] = at[each];
        scatter_by(&found, few);
    }
    return scattered_to(&found);
}

PyDoc_STRVAR(scatter_doc, "scatter(data) -> int\n\nReturn the number of 64 bits that `scatters` has of a text (bytes).");

static PyObject *scatter(PyObject *module, PyObject *arguments) {
    Py_buffer data;
    if (!PyArg_ParseTuple(arguments, "y*", &data)) return NULL;
    const uint64_t found = scattered(data.buf, data.len);
    PyBuffer_Release(&data);
    return PyLong_FromUnsignedLongLong(found);
}

PyDoc_STRVAR(scatters_doc,
"scatters(data, ends) -> bytes\n\n"
"Return a number (uint64) for each different line, without its line end; lines that are different have the same one as good as\n"
"never. ends is what `survey` tells of lines.");

static PyObject *scatters(PyObject *module, PyObject *arguments) {
    Py_buffer data, ends;
    if (!PyArg_ParseTuple(arguments, "y*y*", &data, &ends)) return NULL;
    const Py_ssize_t lines = ends.len / 4;
    Py_ssize_t slots = 64, count = 0;
    while (slots < 2 * lines) slots *= 2;
    uint64_t *table = PyMem_Malloc(8 * slots), *made = PyMem_Malloc(8 * (lines + 1));
    PyObject *found = NULL;
    if (!table || !made) {
        PyErr_NoMemory();
        goto end;
    }
    if (!are_ends(&ends, 0, 0, data.len)) {
        PyErr_SetString(PyExc_ValueError, "lines that end nowhere");
        goto end;
    }
    Py_BEGIN_ALLOW_THREADS
    const uint8_t *base = data.buf, *edge = base + data.len;
    const int32_t *end = ends.buf;
    memset(table, 0, 8 * slots);
    for (Py_ssize_t line = 0; line < lines; line++) {
        Py_ssize_t bytes;
        const uint8_t *at = line_at(base, edge, end, line, &bytes);
        const uint64_t number = scattered(at, bytes);
        Py_ssize_t slot = (Py_ssize_t)(number & (uint64_t)(slots - 1));
        while (table[slot] && table[slot] != number) slot = (slot + 1) & (slots - 1);
        if (table[slot]) continue;
        made[count++] = table[slot] = number;
    }
    Py_END_ALLOW_THREADS
    found = PyBytes_FromStringAndSize((const char *)made, 8 * count);
end:
    PyMem_Free(table);
    PyMem_Free(made);
    PyBuffer_Release(&data);
    PyBuffer_Release(&ends);
    return found;
}

PyDoc_STRVAR(learn_doc,
"learn(table, numbers, most) -> bytes\n\n"
"Return those of numbers (uint64) that a table does not hold, and put up to most of them into it. The table (uint64, as many as a\n"
"power of two) has more places than numbers it is to hold: each stands at the place of its lowest bits or, where that is taken,\n"
"behind it, and zeros where none does (Knuth, TAOCP 3, 6.4, algorithm L). A zero is no number.");

static PyObject *learn(PyObject *module, PyObject *arguments) {
    Py_buffer table, given;
    Py_ssize_t most;
    if (!PyArg_ParseTuple(arguments, "w*y*n", &table, &given, &most)) return NULL;
    const Py_ssize_t slots = table.len / 8, count = given.len / 8;
    uint64_t *slot_of = table.buf, *made = PyMem_Malloc(8 * (count + 1));
    const uint64_t *numbers = given.buf;
    Py_ssize_t fresh = 0, held = 0;
    PyObject *found = NULL;
    if (!made) {
        PyErr_NoMemory();
        goto end;
    }
    for (Py_ssize_t slot = 0; slot < slots; slot++) held += slot_of[slot] != 0;
    if (slots < 1 || (slots & (slots - 1)) || table.len % 8 || given.len % 8 || held + (most < count ? most : count) >= slots) {
        PyErr_SetString(PyExc_ValueError, "a table without room");
        goto end;
    }
    for (Py_ssize_t each = 0; each < count; each++) {
        const uint64_t number = numbers[each];
        if (!number) continue;
        Py_ssize_t slot = (Py_ssize_t)(number & (uint64_t)(slots - 1));
        while (slot_of[slot] && slot_of[slot] != number) slot = (slot + 1) & (slots - 1);
        if (slot_of[slot]) continue;
        made[fresh++] = number;
        if (most-- > 0) slot_of[slot] = number;
    }
    found = PyBytes_FromStringAndSize((const char *)made, 8 * fresh);
end:
    PyMem_Free(made);
    PyBuffer_Release(&table);
    PyBuffer_Release(&given);
    return found;
}

PyDoc_STRVAR(grouped_doc,
"grouped(data, ends, group_of, letters, kinds) -> (lines, counts, firsts, unknown)\n\n"
"Put each digit of ASCII and, if asked, each of its letters by its kind, 9, A or a, and tell the different lines that this makes\n"
"apart (bytes, without line ends): how often each is there, and the number (from 0) of the first. The number of its group is\n"
"written to group_of (int32) for each line. ends is what `survey` tells of lines. kinds (uint32, for each code point, or None)\n"
"tells what a character beyond ASCII is put by: 1 if by itself, 0 where that is not known yet. Where there are such,\n"
"unknown lists some of them, and nothing else is told. Bytes that are no UTF-8 stay as they are.");

enum { ITSELF = 1, CODE_POINTS = 0x110000, MOST_UNKNOWN = 1024 };

static uint8_t kind_of(uint8_t byte, int letters) {
    if (letters && byte >= 'a' && byte <= 'z') return 'a';
    if (letters && byte >= 'A' && byte <= 'Z') return 'A';
    return byte >= '0' && byte <= '9' ? '9' : byte;
}

#ifdef __SSE2__
/* Where bytes are `first` or one of `more` after it, 0xFF. */
static inline __m128i are_of(__m128i bytes, char first, char more) {
    const __m128i beyond = _mm_sub_epi8(bytes, _mm_set1_epi8(first));
    return _mm_cmpeq_epi8(_mm_min_epu8(beyond, _mm_set1_epi8(more)), beyond);
}
#endif

/* Write bytes by their kinds; up to 15 bytes after them may be written, too. */
static void put_by_kind(const uint8_t *at, Py_ssize_t size, const uint8_t *edge, int letters, uint8_t *into) {
    Py_ssize_t done = 0;
#ifdef __SSE2__
    const __m128i fold = _mm_set1_epi8(0x20), capital = _mm_set1_epi8('A'), nine = _mm_set1_epi8('9'), none = _mm_set1_epi8(-1);
    const __m128i asked = _mm_set1_epi8(letters ? -1 : 0);
    for (; done < size && edge - at - done >= 16; done += 16) {
        const __m128i bytes = _mm_loadu_si128((const __m128i *)(at + done));
        const __m128i letter = _mm_and_si128(are_of(_mm_or_si128(bytes, fold), 'a', 25), asked);
        /* A digit is at most 9, a letter at least A or a. */
        const __m128i digits = _mm_max_epu8(bytes, _mm_and_si128(are_of(bytes, '0', 9), nine));
        const __m128i kind = _mm_or_si128(_mm_and_si128(bytes, fold), capital);
        const __m128i letters_put = _mm_or_si128(kind, _mm_andnot_si128(letter, none));
        _mm_storeu_si128((__m128i *)(into + done), _mm_min_epu8(digits, letters_put));
    }
#endif
    for (; done < size; done++) into[done] = kind_of(at[done], letters);
}

/* What characters beyond ASCII are put by, and those of which that is not known. */
typedef struct {
    const uint32_t *kinds;
    uint32_t unknown[MOST_UNKNOWN];
    Py_ssize_t count;
} Kinds;

/* Write characters by their kinds, and up to 15 bytes after them; return how many bytes they take, at most half as many again
 * as before.
 */
static Py_ssize_t put_all_by_kind(const uint8_t *at, Py_ssize_t size, const uint8_t *edge, int letters, Kinds *known, uint8_t *into) {
    const uint8_t *end = at + size;
    uint8_t *start = into;
    if (!known->kinds) {
        put_by_kind(at, size, edge, letters, into);
        return size;
    }
    while (at < end) {
        const uint8_t *odd = beyond_ascii(at, end);
        put_by_kind(at, odd - at, edge, letters, into);
        into += odd - at;
        for (at = odd; at < end && *at >= 0x80;) {
            uint32_t code;
            const int length = decoded(at, end, &code);
            const uint32_t kind = length > 1 ? known->kinds[code] : ITSELF;
            if (!kind && known->count < MOST_UNKNOWN) known->unknown[known->count++] = code;
            if (kind && kind != ITSELF) {
                into += utf8_of(kind, into);
            } else {
                memcpy(into, at, length);
                into += length;
            }
            at += length;
        }
    }
    return into - start;
}

/* A text put by kind, and what is known of those that are the same. */
typedef struct {
    uint64_t scatter;
    Py_ssize_t start, size, count, first;
} Group;

/* Texts that are told apart, the bytes of each after those of the one before, and where each is found by its scatter. */
typedef struct {
    int32_t *table;
    Group *group;
    uint8_t *kept;
    Py_ssize_t slots, groups, used;
} Groups;

/* Make room for so many texts of so many bytes together; tell whether there is. */
static int make_groups(Groups *made, Py_ssize_t most, Py_ssize_t bytes) {
    made->slots = 64;
    while (made->slots < 2 * most) made->slots *= 2;
    made->table = PyMem_Malloc(4 * made->slots);
    made->group = PyMem_Malloc((most + 1) * sizeof(Group));
    made->kept = PyMem_Malloc(bytes + 64);
    if (made->table) memset(made->table, 0xFF, 4 * made->slots);
    return made->table && made->group && made->kept;
}

static void free_groups(Groups *made) {
    PyMem_Free(made->table);
    PyMem_Free(made->group);
    PyMem_Free(made->kept);
}

/* The number of the text that was written behind those that are kept: its own from now on, if it is a new one. */
static int32_t group_with(Groups *known, Py_ssize_t size, Py_ssize_t first) {
    const uint8_t *text = known->kept + known->used;
    const uint64_t scatter = scattered(text, size);
    Py_ssize_t slot = (Py_ssize_t)(scatter & (uint64_t)(known->slots - 1));
    for (; known->table[slot] >= 0; slot = (slot + 1) & (known->slots - 1)) {
        const Group *other = &known->group[known->table[slot]];
        if (other->scatter == scatter && other->size == size && !memcmp(known->kept + other->start, text, size)) break;
    }
    if (known->table[slot] < 0) {
        known->table[slot] = (int32_t)known->groups;
        known->group[known->groups++] = (Group){scatter, known->used, size, 0, first};
        known->used += size;
    }
    return known->table[slot];
}

/* Tell lines apart, put by kind, and write the number of each one's group. */
static void group_lines(Groups *made, const Py_buffer *data, const Py_buffer *ends, int letters, Kinds *known, int32_t *group_of) {
    const uint8_t *base = data->buf, *edge = base + data->len;
    const int32_t *end = ends->buf;
    for (Py_ssize_t line = 0; line < ends->len / 4 && known->count < MOST_UNKNOWN; line++) {
        Py_ssize_t bytes;
        const uint8_t *at = line_at(base, edge, end, line, &bytes);
        const Py_ssize_t size = put_all_by_kind(at, bytes, edge, letters, known, made->kept + made->used);
        group_of[line] = group_with(made, size, line);
        made->group[group_of[line]].count++;
    }
}

/* Tell whether lines and kinds are what they are said to be; an error says what they are not. */
static int may_be_grouped(const Py_buffer *data, const Py_buffer *ends, const Py_buffer *group_of, const Py_buffer *kinds) {
    if (kinds->buf && kinds->len != 4 * CODE_POINTS) {
        PyErr_SetString(PyExc_ValueError, "kinds of other characters than there are");
    } else if (ends->len / 4 != group_of->len / 4 || !are_ends(ends, 0, 0, data->len)) {
        PyErr_SetString(PyExc_ValueError, "lines that end nowhere");
    } else {
        return 1;
    }
    return 0;
}

/* What is told of groups: their texts, how often each is there, the number of the first, and what is not known; the first three
 * are empty where something is not.
 */
static PyObject *told_of_groups(const Groups *made, const Kinds *known) {
    const Py_ssize_t groups = known->count ? 0 : made->groups;
    PyObject *texts = PyList_New(groups), *counts = PyList_New(groups), *firsts = PyList_New(groups);
    PyObject *unknown = PyList_New(known->count), *result = NULL;
    for (Py_ssize_t each = 0; unknown && each < known->count; each++)
        PyList_SetItem(unknown, each, PyLong_FromUnsignedLong(known->unknown[each]));
    for (Py_ssize_t each = 0; texts && counts && firsts && each < groups; each++) {
        const Group *group = &made->group[each];
        PyList_SetItem(texts, each, PyBytes_FromStringAndSize((const char *)made->kept + group->start, group->size));
        PyList_SetItem(counts, each, PyLong_FromSsize_t(group->count));
        PyList_SetItem(firsts, each, PyLong_FromSsize_t(group->first));
    }
    if (texts && counts && firsts && unknown && !PyErr_Occurred()) result = Py_BuildValue("OOOO", texts, counts, firsts, unknown);
    Py_XDECREF(texts);
    Py_XDECREF(counts);
    Py_XDECREF(firsts);
    Py_XDECREF(unknown);
    return result;
}

static PyObject *grouped(PyObject *module, PyObject *arguments) {
    Py_buffer data, ends, group_of, kinds;
    int letters;
    if (!PyArg_ParseTuple(arguments, "y*y*w*pz*", &data, &ends, &group_of, &letters, &kinds)) return NULL;
    Groups made = {NULL, NULL, NULL, 0, 0, 0};
    Kinds known = {kinds.buf, {0}, 0};
    PyObject *result = NULL;
    if (!may_be_grouped(&data, &ends, &group_of, &kinds)) goto end;
    if (!make_groups(&made, ends.len / 4, 2 * data.len)) {
        PyErr_NoMemory();
        goto end;
    }
    Py_BEGIN_ALLOW_THREADS
    group_lines(&made, &data, &ends, letters, &known, group_of.buf);
    Py_END_ALLOW_THREADS
    result = told_of_groups(&made, &known);
end:
    free_groups(&made);
    PyBuffer_Release(&data);
    PyBuffer_Release(&ends);
    PyBuffer_Release(&group_of);
    if (kinds.buf) PyBuffer_Release(&kinds);
    return result;
}

PyDoc_STRVAR(shaped_doc,
"shaped(data, ends, group_of, kinds, other_digit, most, letters) -> (texts, counts, firsts, unknown, lengths, places, runs, spans)\n\n"
"Tell lines apart as `grouped` does with letters, those together that differ in how long runs of the same kind are: a run is\n"
"written once, blanks twice where two or more follow one another. For each group of lines, lengths (int32) has the characters of\n"
"the shortest and of the longest, places (int32) the numbers of the first three that differ, -1 where there are fewer, runs (int32) how many\n"
"runs are told of, and spans (int32), one group after the other, the shortest and longest length of each run in characters. After `most` runs one more, of length 1, stands for all that follow.\n"
"A text that holds other_digit, a code point, is one whose runs are not told and not folded. With letters, runs of letters and\n"
"digits of ASCII alone are folded, and others written as they are.");

/* Lengths of runs that groups have: shortest and longest of each, and those of one text. */
typedef struct {
    int32_t *span;
    Py_ssize_t room, used;
    int32_t *run;
    Py_ssize_t most, runs;
    int letters_alone;
} Runs;

/* Write a run, blanks in a row as two of them, and note its length; return what is written next. */
static inline uint8_t *put_run(const uint8_t *first, int bytes, int32_t many, Runs *told, uint8_t *into) {
    if (told->letters_alone && *first != 'a' && *first != 'A' && *first != '9') {
        memcpy(into, first, (size_t)bytes * many);
        into += (Py_ssize_t)bytes * many;
    } else {
        for (int each = 0; each < bytes; each++) *into++ = first[each];
        if (*first == ' ' && many > 1) *into++ = ' ';
    }
    told->run[told->runs < told->most ? told->runs : told->most] = told->runs < told->most ? many : 1;
    told->runs++;
    return into;
}

#ifdef __SSE2__
/* Fold a text of ASCII alone as `fold_runs` does; up to 16 bytes after it may be read. */
static uint8_t *fold_ascii(const uint8_t *at, Py_ssize_t size, Runs *told, uint8_t *into) {
    Py_ssize_t start = 0;
    for (Py_ssize_t from = 1; from < size; from += 16) {
        const __m128i bytes = _mm_loadu_si128((const __m128i *)(at + from)), before = _mm_loadu_si128((const __m128i *)(at + from - 1));
        unsigned begin = ~(unsigned)_mm_movemask_epi8(_mm_cmpeq_epi8(bytes, before)) & 0xFFFF;
        if (size - from < 16) begin &= (1u << (size - from)) - 1;
        for (; begin; begin &= begin - 1) {
            const Py_ssize_t next = from + __builtin_ctz(begin);
            into = put_run(at + start, 1, (int32_t)(next - start), told, into);
            start = next;
        }
    }
    return size ? put_run(at + start, 1, (int32_t)(size - start), told, into) : into;
}
#endif

/* Write a text put by kind with each run folded, note the lengths of its runs, and return how many bytes that takes; *length is
 * how many characters it has. One that holds a digit of another alphabet is written as it is, and has no runs.
 */
static Py_ssize_t fold_runs(const uint8_t *at, Py_ssize_t size, uint32_t other_digit, Runs *told, uint8_t *into, int32_t *length) {
    const uint8_t *start = at, *end = at + size;
    uint8_t *written = into;
    int32_t characters = 0;
    told->runs = 0;
#ifdef __SSE2__
    if (beyond_ascii(at, end) == end) {
        written = fold_ascii(at, size, told, into);
        characters = (int32_t)size;
        at = end;
    }
#endif
    while (at < end) {
        const uint8_t *first = at;
        uint32_t code;
        const int bytes = decoded(at, end, &code);
        if (code == other_digit) {
            memcpy(into, start, size);
            told->runs = 0;
            for (at = start, characters = 0; at < end; at += decoded(at, end, &code)) characters++;
            *length = characters;
            return size;
        }
        for (at += bytes; end - at >= bytes && *at == *first && (bytes == 1 || !memcmp(at, first, bytes)); at += bytes) {}
        const int32_t many = (int32_t)((at - first) / bytes);
        characters += many;
        written = put_run(first, bytes, many, told, written);
    }
    if (told->runs > told->most) told->runs = told->most + 1;
    *length = characters;
    return written - into;
}

/* Widen the spans of a group, or begin them, for the runs of one more text; tell whether there was room. */
static int take_runs(Runs *told, int32_t *at, int is_new) {
    if (is_new) {
        if (told->used + 2 * told->runs > told->room) {
            const Py_ssize_t room = 2 * (told->used + 2 * told->runs) + 1024;
            int32_t *more = realloc(told->span, 4 * room);
            if (!more) return 0;
            told->span = more;
            told->room = room;
        }
        *at = (int32_t)told->used;
        for (Py_ssize_t each = 0; each < told->runs; each++)
            told->span[told->used++] = told->run[each], told->span[told->used++] = told->run[each];
        return 1;
    }
    int32_t *span = told->span + *at;
    for (Py_ssize_t each = 0; each < told->runs; each++, span += 2) {
        const int32_t many = told->run[each];
        span[0] = many < span[0] ? many : span[0];
        span[1] = many > span[1] ? many : span[1];
    }
    return 1;
}

enum { PLACES = 3 };

/* Note that a line is in a group, if there is room and it is unlike those that were noted. */
static void note_place(const Py_buffer *data, const int32_t *end, Py_ssize_t line, int32_t *place) {
    if (place[PLACES - 1] >= 0) return;
    const uint8_t *base = data->buf, *edge = base + data->len;
    Py_ssize_t size, others;
    const uint8_t *at = line_at(base, edge, end, line, &size);
    for (; *place >= 0; place++) {
        const uint8_t *other = line_at(base, edge, end, *place, &others);
        if (others == size && !memcmp(other, at, size)) return;
    }
    *place = (int32_t)line;
}

static PyObject *shaped(PyObject *module, PyObject *arguments) {
    Py_buffer data, ends, group_of, kinds;
    unsigned int other_digit;
    Py_ssize_t most;
    int letters_alone;
    if (!PyArg_ParseTuple(arguments, "y*y*w*z*Inp", &data, &ends, &group_of, &kinds, &other_digit, &most, &letters_alone)) return NULL;
    Groups lines = {NULL, NULL, NULL, 0, 0, 0}, made = {NULL, NULL, NULL, 0, 0, 0};
    Kinds known = {kinds.buf, {0}, 0};
    Runs told = {NULL, 0, 0, NULL, most, 0, letters_alone};
    int32_t *lengths = NULL, *places = NULL, *runs = NULL, *span_at = NULL, *number = group_of.buf;
    int fine = 1;
    PyObject *groups = NULL, *result = NULL;
    if (!may_be_grouped(&data, &ends, &group_of, &kinds)) goto end;
    if (most < 0 || most > INT16_MAX) {
        PyErr_SetString(PyExc_ValueError, "runs of such a number are not told");
        goto end;
    }
    fine = make_groups(&lines, ends.len / 4, 2 * data.len);
    Py_BEGIN_ALLOW_THREADS
    if (fine) group_lines(&lines, &data, &ends, 1, &known, number);
    Py_END_ALLOW_THREADS
    const Py_ssize_t different = known.count ? 0 : lines.groups;
    lengths = PyMem_Malloc(8 * (different + 1)), runs = PyMem_Malloc(4 * (different + 1));
    places = PyMem_Malloc(4 * PLACES * (different + 1));
    span_at = PyMem_Malloc(4 * (different + 1)), told.run = PyMem_Malloc(4 * (most + 1));
    fine = fine && lengths && places && runs && span_at && told.run && make_groups(&made, different, lines.used);
    Py_BEGIN_ALLOW_THREADS
    for (Py_ssize_t each = 0; fine && each < different; each++) {
        const Group *line = &lines.group[each];
        int32_t length;
        const Py_ssize_t before = made.groups;
        const Py_ssize_t size = fold_runs(lines.kept + line->start, line->size, other_digit, &told, made.kept + made.used, &length);
        const int32_t group = group_with(&made, size, line->first);
        const int is_new = made.groups > before;
        made.group[group].count += line->count;
        fine = take_runs(&told, &span_at[group], is_new);
        if (is_new) {
            lengths[2 * group] = lengths[2 * group + 1] = length;
            runs[group] = (int32_t)told.runs;
            for (int place = 0; place < PLACES; place++) places[PLACES * group + place] = -1;
        } else {
            if (length < lengths[2 * group]) lengths[2 * group] = length;
            if (length > lengths[2 * group + 1]) lengths[2 * group + 1] = length;
        }
        lines.table[each] = group;
    }
    for (Py_ssize_t line = 0; fine && different && line < ends.len / 4; line++) {
        number[line] = lines.table[number[line]];
        note_place(&data, ends.buf, line, places + PLACES * number[line]);
    }
    Py_END_ALLOW_THREADS
    if (!fine) {
        PyErr_NoMemory();
        goto end;
    }
    groups = told_of_groups(&made, &known);
    if (groups) {
        result = Py_BuildValue("OOOOy#y#y#y#", PyTuple_GetItem(groups, 0), PyTuple_GetItem(groups, 1), PyTuple_GetItem(groups, 2),
                               PyTuple_GetItem(groups, 3), (const char *)lengths, 8 * made.groups, (const char *)places,
                               4 * PLACES * made.groups, (const char *)runs, 4 * made.groups, told.span ? (const char *)told.span : "", 4 * told.used);
    }
end:
    Py_XDECREF(groups);
    free_groups(&lines);
    free_groups(&made);
    PyMem_Free(lengths);
    PyMem_Free(places);
    PyMem_Free(runs);
    PyMem_Free(span_at);
    PyMem_Free(told.run);
    free(told.span);
    PyBuffer_Release(&data);
    PyBuffer_Release(&ends);
    PyBuffer_Release(&group_of);
    if (kinds.buf) PyBuffer_Release(&kinds);
    return result;
}

/* Take texts into a tally (int64: how many, the shortest and longest, and of each run the shortest and longest): 1 done, 0 it is
 * of another number of runs, -1 an error. */
static int take_into(PyObject *tally, int64_t count, int32_t shortest, int32_t longest, const int32_t *spans, Py_ssize_t size) {
    Py_buffer given;
    if (PyObject_GetBuffer(tally, &given, PyBUF_WRITABLE) < 0) return -1;
    int64_t *told = given.buf;
    const int fine = given.len == 8 * (3 + size);
    if (fine) {
        told[0] += count;
        if (shortest < told[1]) told[1] = shortest;
        if (longest > told[2]) told[2] = longest;
        for (Py_ssize_t each = 0; each + 1 < size; each += 2) {
            if (spans[each] < told[3 + each]) told[3 + each] = spans[each];
            if (spans[each + 1] > told[4 + each]) told[4 + each] = spans[each + 1];
        }
    }
    PyBuffer_Release(&given);
    return fine;
}

PyDoc_STRVAR(measured_doc,
"measured(tally, count, shortest, longest, spans)\n\nTake texts, and spans (int32 pairs of shortest and longest), into a tally of as many (int64).");

static PyObject *measured(PyObject *module, PyObject *arguments) {
    PyObject *into;
    Py_buffer spans;
    long long count;
    int shortest, longest;
    if (!PyArg_ParseTuple(arguments, "OLiiy*", &into, &count, &shortest, &longest, &spans)) return NULL;
    const int fine = take_into(into, count, shortest, longest, spans.buf, spans.len / 4);
    PyBuffer_Release(&spans);
    if (fine > 0) Py_RETURN_NONE;
    if (!fine) PyErr_SetString(PyExc_ValueError, "spans of another number of runs");
    return NULL;
}

PyDoc_STRVAR(measures_doc,
"measures(known, texts, counts, lengths, runs, spans) -> (left, count, shortest, longest)\n\n"
"Take texts as `shaped` tells them into the tallies that are known of some of them; return which are left, and of the others how\n"
"many they are, and the shortest and longest.");

static PyObject *measures(PyObject *module, PyObject *arguments) {
    PyObject *known, *texts, *counts;
    Py_buffer lengths, runs, spans;
    if (!PyArg_ParseTuple(arguments, "O!O!O!y*y*y*", &PyDict_Type, &known, &PyList_Type, &texts, &PyList_Type, &counts, &lengths, &runs, &spans)) return NULL;
    const Py_ssize_t groups = PyList_Size(texts);
    const int32_t *length = lengths.buf, *many = runs.buf, *span = spans.buf;
    Py_ssize_t at = 0;
    int64_t total = 0;
    int32_t shortest = INT32_MAX, longest = 0;
    PyObject *result = NULL, *left = PyList_New(0);
    int fine = left && PyList_Size(counts) == groups && lengths.len == 8 * groups && runs.len == 4 * groups;
    if (left && !fine) PyErr_SetString(PyExc_ValueError, "groups of another number");
    for (Py_ssize_t each = 0; fine && each < groups; at += 2 * many[each], each++) {
        if (many[each] < 0 || 4 * (at + 2 * (Py_ssize_t)many[each]) > spans.len) {
            PyErr_SetString(PyExc_ValueError, "spans that are not there");
            fine = 0;
            break;
        }
        PyObject *into = PyDict_GetItemWithError(known, PyList_GetItem(texts, each));
        const long long count = into ? PyLong_AsLongLong(PyList_GetItem(counts, each)) : 0;
        fine = !PyErr_Occurred();
        const int taken = fine && into ? take_into(into, count, length[2 * each], length[2 * each + 1], span + at, 2 * many[each]) : 0;
        fine = fine && taken >= 0;
        if (!fine) break;
        if (taken) {
            total += count;
            if (length[2 * each] < shortest) shortest = length[2 * each];
            if (length[2 * each + 1] > longest) longest = length[2 * each + 1];
            continue;
        }
        PyObject *number = PyLong_FromSsize_t(each);
        fine = number && PyList_Append(left, number) == 0;
        Py_XDECREF(number);
    }
    if (fine) result = Py_BuildValue("OLii", left, (long long)total, (int)shortest, (int)longest);
    Py_XDECREF(left);
    PyBuffer_Release(&lengths);
    PyBuffer_Release(&runs);
    PyBuffer_Release(&spans);
    return result;
}

PyDoc_STRVAR(spread_doc,
"spread(starts, letters) -> bytes\n\nReturn the letter (uint16) of each code point of the basic plane.");

static PyObject *spread(PyObject *module, PyObject *arguments) {
    Py_buffer starts, letters;
    if (!PyArg_ParseTuple(arguments, "y*y*", &starts, &letters)) return NULL;
    PyObject *made = PyBytes_FromStringAndSize(NULL, 0x20000);
    if (made) {
        const uint32_t *start = starts.buf;
        const uint16_t *letter = letters.buf;
        Py_ssize_t runs = letters.len / 2 < starts.len / 4 ? letters.len / 2 : starts.len / 4;
        uint16_t *direct = (uint16_t *)PyBytes_AsString(made);
        memset(direct, 0, 0x20000);
        for (Py_ssize_t run = 0; run < runs; run++) {
            uint32_t stop = run + 1 < runs ? start[run + 1] : 0x110000;
            for (uint32_t code = start[run]; code < stop && code < 0x10000; code++) direct[code] = letter[run];
        }
    }
    PyBuffer_Release(&starts);
    PyBuffer_Release(&letters);
    return made;
}

PyDoc_STRVAR(swap_doc, "swap(one, other, /)\n--\n\n"
"Let two files have each other's names, both at once: bytes, as the system has them. Return whether that was done: not\n"
"every system can, nor every file system.");

static PyObject *swap(PyObject *module, PyObject *args) {
    const char *one, *other;
    int done = 0;
    if (!PyArg_ParseTuple(args, "yy", &one, &other))
        return NULL;
#if defined(__linux__) && defined(SYS_renameat2)
    Py_BEGIN_ALLOW_THREADS
    done = syscall(SYS_renameat2, AT_FDCWD, one, AT_FDCWD, other, EXCHANGE) == 0;
    Py_END_ALLOW_THREADS
#endif
    return PyBool_FromLong(done);
}

static PyMethodDef METHODS[] = {
    {"read", read_texts, METH_VARARGS, read_doc},
    {"read_all", read_all, METH_VARARGS, read_all_doc},
    {"sort", sort_texts, METH_VARARGS, sort_doc},
    {"survey", survey, METH_VARARGS, survey_doc},
    {"lined", lined, METH_VARARGS, lined_doc},
    {"cut", cut, METH_VARARGS, cut_doc},
#ifdef MAY_READ
    {"pick", pick, METH_VARARGS, pick_doc},
    {"read_block", read_block, METH_VARARGS, read_block_doc},
#endif
    {"gather", gather, METH_VARARGS, gather_doc},
    {"delimited", delimited, METH_VARARGS, delimited_doc},
    {"values", values, METH_VARARGS, values_doc},
    {"texts", texts_of, METH_VARARGS, texts_doc},
    {"strings", strings, METH_VARARGS, strings_doc},
    {"widened", widened, METH_VARARGS, widened_doc},
    {"sketch", sketch, METH_VARARGS, sketch_doc},
    {"scatter", scatter, METH_VARARGS, scatter_doc},
    {"scatters", scatters, METH_VARARGS, scatters_doc},
    {"learn", learn, METH_VARARGS, learn_doc},
    {"grouped", grouped, METH_VARARGS, grouped_doc},
    {"shaped", shaped, METH_VARARGS, shaped_doc},
    {"measured", measured, METH_VARARGS, measured_doc},
    {"measures", measures, METH_VARARGS, measures_doc},
    {"keyed", keyed, METH_VARARGS, keyed_doc},
    {"doubt", doubt, METH_VARARGS, doubt_doc},
    {"mark", mark_texts, METH_VARARGS, mark_doc},
    {"replace", replace, METH_VARARGS, replace_doc},
    {"pieces", pieces, METH_VARARGS, pieces_doc},
    {"tally", tally, METH_VARARGS, tally_doc},
    {"write", write_rows, METH_VARARGS, write_doc},
    {"numbers", numbers, METH_VARARGS, numbers_doc},
    {"moments", moments, METH_VARARGS, moments_doc},
    {"listed", listed, METH_VARARGS, listed_doc},
    {"is_sound", is_sound, METH_VARARGS, is_sound_doc},
    {"leaps", leaps, METH_VARARGS, leaps_doc},
    {"spread", spread, METH_VARARGS, spread_doc},
    {"swap", swap, METH_VARARGS, swap_doc},
    {NULL, NULL, 0, NULL},
};

static PyModuleDef_Slot SLOTS[] = {{0, NULL}};

static struct PyModuleDef MODULE = {PyModuleDef_HEAD_INIT, "_walkers", "Walkers over blocks of text.", 0, METHODS, SLOTS,
                                    NULL, NULL, NULL};

PyMODINIT_FUNC PyInit__walkers(void) {
    make_checksums();
    return PyModuleDef_Init(&MODULE);
}
