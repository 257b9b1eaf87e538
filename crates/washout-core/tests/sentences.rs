//! What each rule does, in a few words and in sentences: every verb, target and option, as a person reads it.

use washout_core::RuleSet;
use washout_core::explain::explain;

/// Rules, what a list calls each, and what `explain` says of it. What it has to see stands in brackets unless that is one line
/// after the other.
const TOLD: &[(&str, &str, &str)] = &[
    (
        "remove = { class = ['control', 'invisible'] }",
        "remove class control, invisible",
        "Removes characters of the class control (control characters (Cc) but tab and line ends) and characters of \
          the class invisible (characters drawn as nothing: Default_Ignorable_Code_Point and the interlinear marks \
          U+FFF9..U+FFFB, without `joiner`; the whole of `bidi` is in it).",
    ),
    (
        "remove = { chars = 'a-z0-9#', except = { chars = '5' } }",
        "remove characters a-z0-9#",
        "Removes each of the characters “a” “-” “z” “0” “9” “#”, but not the character “5”.",
    ),
    (
        r#"remove = { chars = "\t\r\u00A0\u200B" }"#,
        r"remove characters \t\r\u{a0}\u{200b}",
        r"Removes each of the characters “\t” “\r” “\u{a0}” “\u{200b}”.",
    ),
    (
        "remove = { text = '-copy', at = 'end' }",
        "remove text “-copy” at line ends",
        "Removes the text “-copy” at the end of a line.",
    ),
    (
        "remove = { text = ['(draft)', '[sic]', 'a', 'b', 'c', 'd', 'e'], case = 'ignore', at = 'start' }",
        "remove text “(draft)”, “[sic]”, “a” and 4 more at line starts",
        "Removes the text “(draft)”, “[sic]”, “a”, “b”, “c” and 2 more at the start of a line, in any letter case.",
    ),
    (
        "remove = { words = ['um', 'uh'], gap = 'mend' }",
        "remove words “um”, “uh”",
        "Removes any of the whole words “um”, “uh”. The gap it leaves is closed, and a comma that has nothing left \
          to part goes too.",
    ),
    (
        "remove = { words = 'the lamp', which = 'last', gap = 'leave' }",
        "remove the line's last of words “the lamp”",
        "Removes the last on each line of the whole word “the lamp”.",
    ),
    (
        "remove = { words = ['fog'], hyphen = 'joins', which = 2 }",
        "remove match 2 of a line of words “fog”",
        "Removes number 2 on each line of the whole word “fog” (a hyphen makes one word of two). The gap it leaves \
          between blanks is closed.",
    ),
    (
        "remove = { words = ['um'] , at = 'whole-line' }",
        "remove words “um” on lines of their own",
        "Removes the whole word “um” where it stands alone on a line. The line goes with it, and its line end.",
    ),
    (
        "remove = { stock = 'ansi-escape' }",
        "remove ansi-escapes",
        "Removes what the stock pattern ansi-escape takes (escape sequences of terminals: colours, cursor moves, \
          titles, links (ECMA-48)).",
    ),
    (
        "remove = { class = ['dash', 'quote'], gap = 'close' }",
        "remove class dash, quote",
        "Removes characters of the class dash (hyphens and dashes (Dash), the hyphen-minus and the minus sign \
          included) and characters of the class quote (quotation marks (Quotation_Mark): `double-quote`, \
          `single-quote` and the corner brackets). The gap it leaves between blanks is closed.",
    ),
    (
        "remove = { stopwords = 'en' }",
        "remove stop words (en)",
        "Removes any of the stop words of en, in any letter case. The gap it leaves between blanks is closed.",
    ),
    (
        "remove = { stopwords = 'de', except = { words = ['nicht'] } }",
        "remove stop words (de)",
        "Removes any of the stop words of de, in any letter case, but not “nicht”. The gap it leaves between blanks \
          is closed.",
    ),
    (
        r"remove = { pattern = '\d+', at = 'whole-line' }",
        r"remove pattern \d+ on lines of their own",
        "Removes what the pattern \\d+ finds on a line where it stands alone on a line. The line goes with it, and \
          its line end.",
    ),
    (
        r"remove = { pattern = '(?i)page \d+$', which = 'first' }",
        r"remove the line's first of pattern (?i)page \d+$",
        r"Removes the first on each line of what the pattern (?i)page \d+$ finds on a line.",
    ),
    (
        r"remove = { pattern = '\n\n+', across_lines = true }",
        r"remove pattern \n\n+",
        r"Removes what the pattern \n\n+ finds in the whole text. [the whole text at once]",
    ),
    (
        "remove = { pattern = '(?<=a)b' }",
        "remove pattern (?<=a)b",
        "Removes what the pattern (?<=a)b finds on a line. [line by line; its pattern looks around or refers back, \
          and runs on a backtracking engine whose work is bounded]",
    ),
    (
        "remove = { stock = 'timestamp' }",
        "remove timestamps",
        "Removes what the stock pattern timestamp takes (times of day and time codes: m:ss to hh:mm:ss, with a \
          fraction after `.` or `,`, with am or pm, and with the brackets or parentheses around them). The gap it \
          leaves between blanks is closed.",
    ),
    (
        "remove = { stock = 'line-number', at = 'start' }",
        "remove line-numbers at line starts",
        "Removes what the stock pattern line-number takes (the number of a line: at its start `12`, `12.`, `12:`, \
          `12)`, `[12]`, `0012`, also before `|`, with the blanks before and one blank or tab after; at its end \
          `12`, `[12]`, `0012` with the blanks before; with `rising = true` only numbers that go up from line to \
          line) at the start of a line.",
    ),
    (
        "remove = { stock = 'sentence-end', which = 'last' }",
        "remove the line's last of sentence-ends",
        "Removes the last on each line of what the stock pattern sentence-end takes (the mark that ends a sentence \
          (. ! ? … and rows of them, also of other scripts), with the quotation marks and brackets that close after \
          it).",
    ),
    (
        "remove = { between = ['[', ']'] }",
        "remove stretches between “[” and “]”",
        "Removes what stands from “[” to “]”, with the marks. The gap it leaves between blanks is closed.",
    ),
    (
        "remove = { between = ['(', ')'], marks = 'keep' }",
        "remove what is between “(” and “)”",
        "Removes what stands from “(” to “)”, without the marks. The gap it leaves between blanks is closed.",
    ),
    ("remove = { chars = 'a-z' }", "remove characters a-z", "Removes each of the characters “a” “-” “z”."),
    ("remove = { positions = '1' }", "remove position 1", "Removes character 1 of a line."),
    (
        "remove = { positions = '3..' }",
        "remove positions 3 to the end",
        "Removes the characters of a line from number 3 to its end.",
    ),
    ("remove = { positions = '2..5' }", "remove positions 2 to 5", "Removes the characters 2 to 5 of a line."),
    ("remove = { positions = '12' , which = 'all' }", "remove position 12", "Removes character 12 of a line."),
    (
        "remove = { chars = '#', at = 'edges' }",
        "remove characters # at both edges",
        "Removes the character “#” at either edge of a line.",
    ),
    (
        "remove = { chars = '#', at = 'start' }",
        "remove characters # at line starts",
        "Removes the character “#” at the start of a line.",
    ),
    (
        "remove = { class = 'digit', except = { words = ['12'], text = ['1.2'] } }",
        "remove class digit",
        "Removes characters of the class digit (decimal digits of every script (Nd)), but not “12”, “1.2”.",
    ),
    ("replace = { text = 'a', with = '' }", "replace text “a” with nothing", "Puts nothing in place of the text “a”."),
    (r#"replace = { text = 'a', with = "\n" }"#, r"replace text “a” with “\n”", r"Puts “\n” in place of the text “a”."),
    (
        r#"replace = { chars = '“”', with = '"', which = 'first' }"#,
        r#"replace the line's first of characters “” with “"”"#,
        r#"Puts “"” in place of the first on each line of each of the characters ““” “””."#,
    ),
    (
        "replace = { class = 'odd-space', with = ' ' }",
        "replace class odd-space with “ ”",
        "Puts “ ” in place of characters of the class odd-space (White_Space but space, tab and line ends: form \
          feeds, no-break and thin spaces, U+2028 and the like).",
    ),
    (
        r"replace = { pattern = '(\d\d)\.(\d\d)', with = '$2-$1' }",
        r"replace pattern (\d\d)\.(\d\d) with “$2-$1”",
        r"Puts “$2-$1” in place of what the pattern (\d\d)\.(\d\d) finds on a line.",
    ),
    (
        "replace = { pairs = [['Vey', 'T. Vey'], ['fog', 'mist']] }",
        "replace “Vey” with “T. Vey” and one more pair",
        "“Vey” becomes “T. Vey”, “fog” becomes “mist”: in one pass, the longest first; what was put is not looked \
          at again.",
    ),
    (
        "replace = { pairs = [['a', '1'], ['b', '2'], ['c', '3'], ['d', '4'], ['e', '5'], ['f', '6']], follow_case = true }",
        "replace “a” with “1” and 5 more pairs",
        "“a” becomes “1”, “b” becomes “2”, “c” becomes “3”, “d” becomes “4”, “e” becomes “5”, and one more pair: in \
          one pass, the longest first; what was put is not looked at again. In any letter case. Capitals go over to \
          what is put.",
    ),
    (
        "replace = { pairs = [['Vey', 'T. Vey']], whole_words = true, case = 'ignore' }",
        "replace “Vey” with “T. Vey”",
        "“Vey” becomes “T. Vey”: in one pass, the longest first; what was put is not looked at again. Whole words \
          only. In any letter case.",
    ),
    (
        "replace = { stock = 'timestamp', with = '[time]' }",
        "replace timestamps with “[time]”",
        "Puts “[time]” in place of what the stock pattern timestamp takes (times of day and time codes: m:ss to \
          hh:mm:ss, with a fraction after `.` or `,`, with am or pm, and with the brackets or parentheses around \
          them).",
    ),
    (
        r#"replace = { between = ['"', '"'], with = 'x', marks = 'keep' }"#,
        r#"replace what is between “"” and “"” with “x”"#,
        r#"Puts “x” in place of what stands from “"” to “"”, without the marks."#,
    ),
    (
        "replace = { positions = '1..3', with = 'MP-' }",
        "replace positions 1 to 3 with “MP-”",
        "Puts “MP-” in place of the characters 1 to 3 of a line.",
    ),
    (
        "keep = { class = ['letter', 'blank'] }",
        "keep only class letter, blank",
        "Of each line, keeps only characters of the class letter (letters (L)) and characters of the class blank \
          (space and tab) and removes the rest. A line without one becomes empty.",
    ),
    (
        r"keep = { pattern = 'MP-(\d{4})', group = 1, which = 'first' }",
        r"keep only the line's first of pattern MP-(\d{4})",
        "Of each line, keeps only group 1 of the first of what the pattern MP-(\\d{4}) finds on a line and removes \
          the rest. A line without one becomes empty.",
    ),
    (
        "keep = { pattern = '[A-Z]+', joined_with = ', ', unmatched = 'drop' }",
        "keep only pattern [A-Z]+",
        "Of each line, keeps only what the pattern [A-Z]+ finds on a line and removes the rest. Between two that \
          stay it puts “, ”. A line without one goes, with its line end.",
    ),
    (
        "keep = { stock = 'timestamp', unmatched = 'leave', which = 'last' }",
        "keep only the line's last of timestamps",
        "Of each line, keeps only the last of what the stock pattern timestamp takes (times of day and time codes: \
          m:ss to hh:mm:ss, with a fraction after `.` or `,`, with am or pm, and with the brackets or parentheses \
          around them) and removes the rest. A line without one stays as it is.",
    ),
    (
        "keep = { words = ['fog'], which = 3 }",
        "keep only match 3 of a line of words “fog”",
        "Of each line, keeps only number 3 of the whole word “fog” and removes the rest. A line without one becomes \
          empty.",
    ),
    (
        "collapse = { class = 'blank' }",
        "collapse repeated class blank",
        "Where one and the same of these stands several times in a row, keeps one: characters of the class blank \
          (space and tab).",
    ),
    (
        "collapse = { class = 'blank', with = ' ' }",
        "collapse runs of class blank to “ ”",
        "Makes each unbroken row of these one “ ”: characters of the class blank (space and tab).",
    ),
    (
        "collapse = { chars = '-=', with = '-', which = 'first' }",
        "collapse the line's first of runs of characters -= to “-”",
        "Makes each unbroken row of these one “-”: the first on each line of each of the characters “-” “=”.",
    ),
    (
        "collapse = { text = ['ha', 'ho'] }",
        "collapse repeated text “ha”, “ho”",
        "Where one and the same of these stands several times in a row, keeps one: the text “ha”, “ho”.",
    ),
    ("trim = {}", "trim blank at both edges", "Removes spaces and tabs at both edges of each line."),
    ("trim = { at = 'start' }", "trim blank at line starts", "Removes spaces and tabs at the start of each line."),
    (
        "trim = { at = 'end', class = 'whitespace' }",
        "trim whitespace at line ends",
        "Removes all white space, odd spaces included, at the end of each line.",
    ),
    ("recase = { to = 'lower' }", "put all in lower case", "Makes all letters small, everywhere."),
    (
        "recase = { to = 'upper', words = ['marrow point'] }",
        "put words “marrow point” in upper case",
        "Makes all letters capital, in the whole word “marrow point”.",
    ),
    (
        "recase = { to = 'title', rest = 'keep' }",
        "put all in title case",
        "Makes the first letter of each word capital and leaves the others as they are, everywhere.",
    ),
    (
        "recase = { to = 'title' }",
        "put all in title case",
        "Makes the first letter of each word capital and makes the others small, everywhere.",
    ),
    (
        "recase = { to = 'sentence' }",
        "put all in sentence case",
        "Makes the first letter of each line and of each sentence capital and makes the others small, everywhere.",
    ),
    (
        "recase = { to = 'sentence', rest = 'keep' }",
        "put all in sentence case",
        "Makes the first letter of each line and of each sentence capital and leaves the others as they are, \
          everywhere.",
    ),
    (
        "recase = { to = 'lower', pattern = '[A-Z]{2,}', which = 'last' }",
        "put the line's last of pattern [A-Z]{2,} in lower case",
        "Makes all letters small, in the last on each line of what the pattern [A-Z]{2,} finds on a line.",
    ),
    ("normalize = { form = 'NFC' }", "normalize to NFC", "Puts characters in the Unicode normalization form NFC."),
    ("normalize = { form = 'NFKD' }", "normalize to NFKD", "Puts characters in the Unicode normalization form NFKD."),
    (
        "plain_letters = {}",
        "Latin letters without their marks",
        "Takes the marks off Latin letters, and writes ø ł ß æ and their kin plainly.",
    ),
    (
        "decode = { what = 'html-entities' }",
        "decode html-entities",
        "Writes character references of HTML (&eacute; &#233;) as their characters.",
    ),
    ("decode = { what = 'percent' }", "decode percent", "Writes percent-encoded characters (%C3%A9) plainly."),
    (
        "decode = { what = 'double-utf8' }",
        "decode double-utf8",
        "Mends UTF-8 that was once read as windows-1252 (â€™ becomes ’).",
    ),
    ("decode = { what = 'digits' }", "decode digits", "Writes decimal digits of other scripts as 0 to 9."),
    (
        "drop_lines = { text = 'page', case = 'ignore' }",
        "drop lines with text “page”",
        "Drops every line that holds the text “page”, in any letter case.",
    ),
    (
        "drop_lines = { pattern = '^#' }",
        "drop lines with pattern ^#",
        "Drops every line that holds what the pattern ^# finds on a line.",
    ),
    ("drop_lines = { empty = 'all' }", "drop empty lines", "Drops every line that holds nothing but blanks."),
    (
        "drop_lines = { empty = 'extra' }",
        "drop extra empty lines",
        "Of several empty lines in a row, keeps the first. [line by line, and whether the one before is empty]",
    ),
    (
        "drop_lines = { stock = 'timestamp', at = 'whole-line' }",
        "drop lines with timestamps on lines of their own",
        "Drops every line that holds what the stock pattern timestamp takes (times of day and time codes: m:ss to \
          hh:mm:ss, with a fraction after `.` or `,`, with am or pm, and with the brackets or parentheses around \
          them) where it stands alone on a line.",
    ),
    ("drop_lines = {}\nlines = '1..3'", "drop these lines", "Drops lines. Only from line 1 to line 3."),
    (
        "keep_lines = { words = ['fog'] }",
        "keep only lines with words “fog”",
        "Drops every line that does not hold the whole word “fog”.",
    ),
    (
        "keep_lines = {}\nfrom_line = { text = 'BEGIN' }\nto_line = { text = 'END' }",
        "keep only these lines",
        "Drops all other lines. Only from a line that holds the text “BEGIN” to the next later line that holds the \
          text “END”, both included, each time again. Where that line is missing, not at all. [each section to its \
          end]",
    ),
    (
        "drop_repeats = {}",
        "drop repeated neighbours",
        "Drops a line that stands right after its like; the first stays. [line by line, and the one before]",
    ),
    (
        "drop_repeats = { scope = 'file', case = 'ignore' }",
        "drop repeated lines",
        "Drops a line that stands anywhere after its like; the first stays. Letter case does not count. [line by \
          line, and 20 to 40 bytes of memory for each different line]",
    ),
    (
        "drop_repeats = { ignore_edges = true }",
        "drop repeated neighbours",
        "Drops a line that stands right after its like; the first stays. Blanks at the edges do not count. [line by \
          line, and the one before]",
    ),
    (
        "join_lines = {}",
        "join the lines of each paragraph",
        "Makes one line of each paragraph; empty lines stay. Between two lines it puts “ ”. [neighbouring lines]",
    ),
    (
        "join_lines = { with = '', paragraphs = 'join' }",
        "join all lines",
        "Makes one line of the whole text. Between two lines it puts nothing. [neighbouring lines]",
    ),
    (
        "join_lines = { with = ' / ', hyphens = 'rejoin' }",
        "join the lines of each paragraph",
        "Makes one line of each paragraph; empty lines stay. Between two lines it puts “ / ”. A word that a hyphen \
          breaks over two lines becomes one word again. [neighbouring lines]",
    ),
    (
        "break_lines = { stock = 'sentence-end' }",
        "break lines after sentence-ends",
        "Breaks the line after what the stock pattern sentence-end takes (the mark that ends a sentence (. ! ? … \
          and rows of them, also of other scripts), with the quotation marks and brackets that close after it), \
          which stays. Only where a blank stands there.",
    ),
    (
        "break_lines = { chars = ';', place = 'before', which = 'last' }",
        "break lines before the line's last of characters ;",
        "Breaks the line before the last on each line of the character “;”, which stays. Only where a blank stands \
          there.",
    ),
    (
        "break_lines = { text = '--', tight = true }",
        "break lines after text “--”",
        "Breaks the line after the text “--”, which stays.",
    ),
    (
        "wrap_lines = { width = 1 }",
        "wrap lines at 1 columns",
        "Breaks each line that is wider than 1 column, at blanks. A wider word stays whole, on a line of its own.",
    ),
    (
        "wrap_lines = { width = 40 }",
        "wrap lines at 40 columns",
        "Breaks each line that is wider than 40 columns, at blanks. A wider word stays whole, on a line of its own.",
    ),
    ("line_ends = { to = 'lf' }", "line ends to LF", "Makes every line end LF."),
    (
        "line_ends = { to = 'crlf', final = 'one', bom = 'drop' }",
        "line ends to CRLF, one line end at the end, no byte order mark",
        "Makes every line end CRLF. Closes the text with exactly one line end. Drops a byte order mark. [line by \
          line, and the end of the text]",
    ),
    (
        "line_ends = { final = 'none' }",
        "no line end at the end",
        "Closes the text with no line end. [line by line, and the end of the text]",
    ),
    ("line_ends = { bom = 'drop' }", "no byte order mark", "Drops a byte order mark."),
    (
        "tabs = { width = 1 }",
        "tabs to spaces, 1 column apart",
        "Replaces tabs by spaces, up to the next tab stop; they are 1 column apart.",
    ),
    (
        "tabs = { width = 8 }",
        "tabs to spaces, 8 columns apart",
        "Replaces tabs by spaces, up to the next tab stop; they are 8 columns apart.",
    ),
    ("pad = { width = 2 }", "pad numbers to 2 digits", "Writes zeros before numbers, up to 2 digits."),
    (
        "pad = { width = 3, which = 'last' }",
        "pad the line's last of numbers to 3 digits",
        "Writes zeros before the last number of each line, up to 3 digits.",
    ),
    (
        r"pad = { pattern = 'scan \d+', width = 4 }",
        r"pad numbers to 4 digits in pattern scan \d+",
        r"Writes zeros before the numbers in what the pattern scan \d+ finds on a line, up to 4 digits.",
    ),
    ("number = {}", "number at the start", "Writes a number before each line, from 1 on, and “ ” after it."),
    (
        "number = { start = 10, step = 5, width = 4, place = 'end', joined_with = ' ' }",
        "number at the end",
        "Writes “ ” and a number after each line, from 0010 on in steps of 5.",
    ),
    (
        "number = { text = '#', which = 'first' }",
        "number in place of the line's first of text “#”",
        "Writes numbers from 1 on in place of the first on each line of the text “#”.",
    ),
    (
        "drop_records = { empty = 'all' }\nfields = ['Item']",
        "drop empty records",
        "Drops every record of a table in which all of these fields are empty, with its line end. It judges them by \
          the field “Item”. [record by record]",
    ),
    (
        "drop_records = { empty = 'any' }\nfields = ['Item', 'Keeper']",
        "drop empty records",
        "Drops every record of a table in which any of these fields is empty, with its line end. It judges them by \
          the fields “Item”, “Keeper”. [record by record]",
    ),
    (
        "drop_records = { repeated = 'file', case = 'ignore', ignore_edges = true }\nfields = ['Item']",
        "drop repeated records",
        "Drops every record of a table in which all of these fields are as in any record before; the first stays, \
          and so do records in which all of them are empty. Letter case does not count. Blanks at the edges do not \
          count. It judges them by the field “Item”. [record by record, and 20 to 40 bytes of memory for each \
          different one]",
    ),
    (
        "drop_records = { repeated = 'neighbours' }",
        "drop repeated records",
        "Drops every record of a table in which all of these fields are as in the record before; the first stays, \
          and so do records in which all of them are empty. It judges them by all their fields. [record by record, \
          and the one before]",
    ),
    (
        "drop_records = {}\nrows = [{ field = 'Item', text = 'oil' }]",
        "drop these records",
        "Drops records of a table. Only in records whose field “Item” holds the text “oil”. [record by record]",
    ),
    (
        "drop_fields = ['Note', 'Page']",
        "drop “Note”, “Page”",
        "Drops the fields “Note”, “Page” of a table, in every record. [the names of the fields]",
    ),
    (
        "rename_fields = { Item = 'item', Keeper = 'keeper' }",
        "rename “Item” to “item”, “Keeper” to “keeper”",
        "Renames fields of a table: “Item” to “item”, “Keeper” to “keeper”. [the names of the fields]",
    ),
    (
        "trim = {}\nfields = ['Item', 'Keeper']",
        "trim blank at both edges",
        "Removes spaces and tabs at both edges of each line. In tables only in the fields “Item”, “Keeper”.",
    ),
    (
        "trim = {}\nfields = ['1', 'Note']",
        "trim blank at both edges",
        "Removes spaces and tabs at both edges of each line. In tables only in the fields “1”, “Note”.",
    ),
    (
        "remove = { chars = '#' }\nfields = ['Item']\nrows = [{ field = 'Keeper', text = 'Vey' }]",
        "remove characters #",
        "Removes the character “#”. In tables only in the field “Item”. Only in records whose field “Keeper” holds \
          the text “Vey”.",
    ),
    (
        "keep = { pattern = 'MP-\\d+' }\nfields = ['Note']\nto_field = 'Order'",
        r"keep only pattern MP-\d+",
        "Of each line, keeps only what the pattern MP-\\d+ finds on a line and removes the rest. A line without one \
          becomes empty. In tables only in the field “Note”. The result goes to the field “Order”; what it comes \
          from stays.",
    ),
    ("remove = { chars = '#' }\nlines = '2'", "remove characters #", "Removes the character “#”. Only on line 2."),
    (
        "remove = { chars = '#' }\nlines = '-3..'",
        "remove characters #",
        "Removes the character “#”. Only from line 3 from the end to the last line. [each line with the 3 after it]",
    ),
    (
        "remove = { chars = '#' }\nlines = '5..10'",
        "remove characters #",
        "Removes the character “#”. Only from line 5 to line 10.",
    ),
    (
        "remove = { chars = '#' }\nfrom_line = { pattern = '^A' }\nto_line = { pattern = '^B' }\nunclosed = 'take'",
        "remove characters #",
        "Removes the character “#”. Only from a line that holds what the pattern ^A finds on a line to the next \
          later line that holds what the pattern ^B finds on a line, both included, each time again. Where that line \
          is missing, to the end of the text.",
    ),
    (
        "remove = { chars = '#' }\nexpect = 0",
        "remove characters #",
        "Removes the character “#”. Expects no change over the whole run; else nothing is written.",
    ),
    (
        "remove = { chars = '#' }\nexpect = '..5'",
        "remove characters #",
        "Removes the character “#”. Expects at most 5 changes over the whole run; else nothing is written.",
    ),
    (
        "remove = { chars = '#' }\nexpect = '2..5'",
        "remove characters #",
        "Removes the character “#”. Expects 2 to 5 changes over the whole run; else nothing is written.",
    ),
    (
        "remove = { chars = '#' }\nfrom_line = { pattern = '^A' }\nto_line = { pattern = '^B' }\nunclosed = 'refuse'",
        "remove characters #",
        "Removes the character “#”. Only from a line that holds what the pattern ^A finds on a line to the next \
          later line that holds what the pattern ^B finds on a line, both included, each time again. Where that line \
          is missing, it is an error.",
    ),
    (
        "remove = { chars = '#' }\nfrom_line = { pattern = '^A' }",
        "remove characters #",
        "Removes the character “#”. Only from the first line that holds what the pattern ^A finds on a line to the \
          end.",
    ),
    (
        "remove = { chars = '#' }\nto_line = { words = ['fog'] }",
        "remove characters #",
        "Removes the character “#”. Only from the start to the first line that holds the whole word “fog”. Where \
          that line is missing, to the end of the text.",
    ),
    ("remove = { chars = '#' }\nlabel = 'no number signs'", "no number signs", "Removes the character “#”."),
];

#[test]
fn rules_are_told_in_plain_words() {
    let mut wrong = Vec::new();
    for (rule, caption, sentences) in TOLD {
        let set =
            RuleSet::read("set", &format!("[[rule]]\n{rule}\n")).unwrap_or_else(|error| panic!("{rule}\n{error}"));
        let explanation = explain([&set]).remove(0);
        let needs = match explanation.needs.as_str() {
            "line by line" => String::new(),
            needs => format!(" [{needs}]"),
        };
        let told = explanation.does.join(" ") + &needs;
        if set.rules[0].caption() != *caption || told != *sentences {
            wrong.push(format!("{rule}\n  {}\n  {told}", set.rules[0].caption()));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn every_verb_and_target_is_told() {
    let mut verbs = washout_core::rules::Verb::NAMES.iter().filter(|verb| **verb != "include");
    let missing = verbs.find(|verb| !TOLD.iter().any(|(rule, ..)| rule.starts_with(&format!("{verb} = "))));
    assert_eq!(missing, None);
}
