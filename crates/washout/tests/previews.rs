//! What a preview draws: each change is seen for what it is, whatever cannot be seen as such.

mod support;

use support::TestDir;

/// A rule, a text, and what is drawn of it 80 columns wide, from the line that names the file on.
const DRAWN: &[(&str, &[u8], &str)] = &[
    (
        "remove.chars='#'",
        b"# fog\nclear\n## lamp#\n",
        r"
log.txt  2 of 3 lines change

     1  before  # fog
                ×  rule 1
        after    fog

     3  before  ## lamp#
                ××     ×  rule 1
        after    lamp",
    ),
    (
        "replace = { text = 'fog', with = 'mist' }",
        b"fog at the fog bell\n",
        r"
log.txt  1 of 1 line changes

     1  before  fog at the fog bell
                ×××        ×××  rule 1
        after   mist at the mist bell
                ^^^^        ^^^^",
    ),
    (
        "drop_lines = { text = 'page' }",
        b"one\npage 1\ntwo\npage 2\n",
        r"
log.txt  2 of 4 lines change

     2  before  page·1↵
                ×××××××  rule 1
        after   (nothing left)

     4  before  page·2↵
                ×××××××  rule 1
        after   (nothing left)",
    ),
    (
        "join_lines = {}",
        b"the lamp\nis lit\n\nat dusk\n",
        r"
log.txt  2 of 4 lines change

     1  before  the lamp↵
                        ×  rule 1
     2          is lit
        after   the lamp·is lit
                        ^",
    ),
    (
        "break_lines = { stock = 'sentence-end' }",
        b"Fog came. It went. All well\n",
        r"
log.txt  1 of 1 line changes

     1  before  Fog came.·It went.·All well
                         ×        ×  rule 1
        after   Fog came.↵
                         ^
                It went.↵
                        ^
                All well",
    ),
    (
        "trim = {}",
        b"  a \t\n\tb\n",
        r"
log.txt  2 of 2 lines change

     1  before  ··a·→
                ×× ××  rule 1
        after   a

     2  before  →b
                ×  rule 1
        after   b",
    ),
    (
        "line_ends = { to = 'lf' }",
        b"a\r\nb\r\n",
        r"
log.txt  2 of 2 lines change

     1  before  a␍↵
                 ××  rule 1
        after   a↵
                 ^

     2  before  b␍↵
                 ××  rule 1
        after   b↵
                 ^",
    ),
    (
        "line_ends = { to = 'crlf', final = 'one' }",
        b"a\nb",
        r"
log.txt  2 of 2 lines change

     1  before  a↵
                 ×  rule 1
        after   a␍↵
                 ^^

     2  before  b
        after   b␍↵
                 ^^  rule 1",
    ),
    (
        "line_ends = { bom = 'drop' }",
        "\u{feff}a\nb\n".as_bytes(),
        r"
log.txt  0 of 2 lines change

        the byte order mark goes  rule 1",
    ),
    (
        "tabs = { width = 4 }",
        b"a\tb\tc\n",
        r"
log.txt  1 of 1 line changes

     1  before  a→b→c
                 × ×  rule 1
        after   a···b···c
                 ^^^ ^^^",
    ),
    (
        "recase = { to = 'upper' }",
        "straße é\n".as_bytes(),
        r"
log.txt  1 of 1 line changes

     1  before  straße é
                ×××××× ×  rule 1
        after   STRASSE É
                ^^^^^^^ ^",
    ),
    (
        "normalize = { form = 'NFC' }",
        "e\u{301}te\u{301} a\n".as_bytes(),
        r"
log.txt  1 of 1 line changes

     1  before  e⟨U+0301⟩te⟨U+0301⟩ a
                ××××××××× ×××××××××  rule 1
        after   été a
                ^ ^",
    ),
    (
        "normalize = { form = 'NFD' }",
        "été a\n".as_bytes(),
        r"
log.txt  1 of 1 line changes

     1  before  été a
                × ×  rule 1
        after   e⟨U+0301⟩te⟨U+0301⟩ a
                ^^^^^^^^^ ^^^^^^^^^",
    ),
    (
        "remove.class = 'invisible'",
        "a\u{200b}b\u{200d}c \u{202e}abc\u{202c}\n".as_bytes(),
        r"
log.txt  1 of 1 line changes

     1  before  a⟨U+200B⟩b‍c ⟨U+202E⟩abc⟨U+202C⟩
                 ××××××××   ××××××××   ××××××××  rule 1
        after   ab‍c abc",
    ),
    (
        "remove.class = 'control'",
        b"a\x07b\x1b[31mred\x1b[0m\n",
        r"
log.txt  1 of 1 line changes

     1  before  a␇b␛[31mred␛[0m
                 × ×       ×  rule 1
        after   ab[31mred[0m",
    ),
    (
        "replace = { class = 'odd-space', with = ' ' }",
        "a\u{a0}b\u{3000}c\n".as_bytes(),
        r"
log.txt  1 of 1 line changes

     1  before  a⟨U+00A0⟩b⟨U+3000⟩c
                 ×××××××× ××××××××  rule 1
        after   a·b·c
                 ^ ^",
    ),
    (
        "remove = { text = '灯' }",
        "灯台守 灯 light\n".as_bytes(),
        r"
log.txt  1 of 1 line changes

     1  before  灯台守 灯 light
                ××     ××  rule 1
        after   台守  light",
    ),
    (
        "remove.words = ['um']",
        b"Well, um, the lamp um.\n",
        r"
log.txt  1 of 1 line changes

     1  before  Well,·um, the lamp·um.
                     ×××          ×××  rule 1
        after   Well,, the lamp.",
    ),
    (
        "number = {}",
        b"a\nb\n",
        r"
log.txt  2 of 2 lines change

     1  before  a
        after   1·a
                ^^  rule 1

     2  before  b
        after   2·b
                ^^  rule 1",
    ),
    (
        "wrap_lines = { width = 12 }",
        b"the lamp was lit at dusk by Vey\n",
        r"
log.txt  1 of 1 line changes

     1  before  the lamp was·lit at dusk·by Vey
                            ×           ×  rule 1
        after   the lamp was↵
                            ^
                lit at dusk↵
                           ^
                by Vey",
    ),
    (
        "keep = { pattern = 'MP-\\d+', unmatched = 'drop' }",
        b"see MP-12 and MP-7\nnothing\n",
        r"
log.txt  2 of 2 lines change

     1  before  see·MP-12·and·MP-7
                ××××     ×××××  rule 1
        after   MP-12MP-7

     2  before  nothing↵
                ××××××××  rule 1
        after   (nothing left)",
    ),
    (
        "replace = { text = 'x', with = \"\\n\" }",
        b"axb\n",
        r"
log.txt  1 of 1 line changes

     1  before  axb
                 ×  rule 1
        after   a↵
                 ^
                b",
    ),
    (
        "replace = { pattern = '^', with = '> ' }",
        b"a\n\nb\n",
        r"
log.txt  3 of 3 lines change

     1  before  a
        after   >·a
                ^^  rule 1

     2  before  (empty line)
        after   >·
                ^^  rule 1

     3  before  b
        after   >·b
                ^^  rule 1",
    ),
    (
        "remove.chars = '#'",
        b"xxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxx#yyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyy\n",
        r"
log.txt  1 of 1 line changes

     1  before  …xxxxxxxxxxxxxxxxxxxxxxxx#yyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyy…
                                         ×  rule 1
        after   …xxxxxxxxxxxxxxxxxxxxxxxxyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyyy…",
    ),
    (
        "remove.class = 'broken'",
        b"ab\xffc\xc3\n",
        r"
log.txt  1 of 1 line changes

     1  before  ab⟨xFF⟩c⟨xC3⟩
                  ××××× ×××××  rule 1
        after   abc",
    ),
    (
        "drop_repeats = {}",
        b"a\na\na\nb\n",
        r"
log.txt  2 of 4 lines change

     2  before  a↵
                ××  rule 1
        after   (nothing left)

     3  before  a↵
                ××  rule 1
        after   (nothing left)",
    ),
    (
        "remove = { text = '👩\u{200d}🚀' }",
        "crew 👩\u{200d}🚀👨\u{200d}👩\u{200d}👧 🇩🇪\n".as_bytes(),
        r"
log.txt  1 of 1 line changes

     1  before  crew 👩⟨U+200D⟩🚀👨‍👩‍👧 🇩🇪
                     ××××××××××××  rule 1
        after   crew 👨‍👩‍👧 🇩🇪",
    ),
    (
        "collapse = { class = 'blank', with = ' ' }",
        b"a    b \t c\n",
        r"
log.txt  1 of 1 line changes

     1  before  a····b·→·c
                 ×××× ×××  rule 1
        after   a·b·c
                 ^ ^",
    ),
    (
        "remove.chars = '#'",
        b"#a\nb\nb\nb\n#c\n",
        r"
log.txt  2 of 5 lines change

     1  before  #a
                ×  rule 1
        after   a

     5  before  #c
                ×  rule 1
        after   c",
    ),
    (
        "remove = { stock = 'timestamp' }",
        b"[00:14] Fog, 7:45 pm.\n",
        r"
log.txt  1 of 1 line changes

     1  before  [00:14]·Fog,·7:45·pm.
                ××××××××    ××××××××  rule 1
        after   Fog,.",
    ),
    (
        "remove = { between = ['[', ']'] }",
        b"lamp [lit] out\n",
        r"
log.txt  1 of 1 line changes

     1  before  lamp [lit]·out
                     ××××××  rule 1
        after   lamp out",
    ),
    (
        "pad = { width = 3 }",
        b"scan 7 of 12\n",
        r"
log.txt  1 of 1 line changes

     1  before  scan 7 of 12
                     ×    ××  rule 1
        after   scan 007 of 012
                     ^^^    ^^^",
    ),
    (
        "plain_letters = {}",
        "Søren é\n".as_bytes(),
        r"
log.txt  1 of 1 line changes

     1  before  Søren é
                 ×    ×  rule 1
        after   Soren e
                 ^    ^",
    ),
    (
        "decode = { what = 'html-entities' }",
        b"fog &amp; mist\n",
        r"
log.txt  1 of 1 line changes

     1  before  fog &amp; mist
                    ×××××  rule 1
        after   fog & mist
                    ^",
    ),
    (
        "remove.positions = '1..3'",
        b"MP-7\nMP\n",
        r"
log.txt  2 of 2 lines change

     1  before  MP-7
                ×××  rule 1
        after   7

     2  before  MP
                ××  rule 1
        after   (empty line)",
    ),
];

fn drawn(rule: &str, text: &[u8]) -> String {
    let desk = TestDir::new();
    desk.write("log.txt", text);
    let mut command = desk.command();
    command.args(["clean", "--rule", rule, "log.txt"]).env("COLUMNS", "80");
    let output = command.output().expect("the built program");
    assert!(output.status.success(), "{rule}: {}", String::from_utf8_lossy(&output.stderr));
    assert_eq!(std::fs::read(desk.path("log.txt")).expect("the file"), text, "{rule}: a preview changes nothing");
    let out = String::from_utf8(output.stdout).expect("what is drawn is UTF-8");
    let changes = out.split("\n rule ").next().expect("the changes come before the counts").trim_end();
    changes.lines().skip(2).fold(String::new(), |drawn, line| drawn + "\n" + line)
}

#[test]
fn each_change_is_drawn_as_what_it_is() {
    let mut wrong = Vec::new();
    for (rule, text, want) in DRAWN {
        let drawn = drawn(rule, text);
        if drawn != *want {
            wrong.push(format!("{rule}{drawn}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n\n"));
}

/// Files, a command line, and all that it shows 80 columns wide.
struct Shown {
    files: &'static [(&'static str, &'static str)],
    args: &'static [&'static str],
    out: &'static str,
}

const SHOWN: &[Shown] = &[
    Shown {
        files: &[(
            "stores.csv",
            "Item,Keeper,Note\noil #,Vey ,\"12 cans, \"\"new\"\"\"\nwick,\u{200b}Fenn,\nrope,Vey,\"two\nlines #\"\n",
        )],
        args: &["clean", "--rule", "remove.chars = '#'", "--rule", "trim = {}", "stores.csv"],
        out: r#"
× goes   ^ comes   · blank   → tab   ↵ line end

stores.csv  3 cells in 3 records change

     1  Item
        before  oil·#
                   ××  rules 2, 1
        after   oil

     1  Keeper
        before  Vey·
                   ×  rule 2
        after   Vey

     3  Note
     2  before  lines·#
                     ××  rules 2, 1
        after   lines

 rule   what it does               changes   files
───────────────────────────────────────────────────────
    1   remove characters #              2       1
    2   trim blank at both edges         3       1

characters  82 → 77    lines  5 → 5
1 file would change

Nothing was written. To write:
  cleaned copies      washout clean --rule "remove.chars = '#'" --rule 'trim = {}' stores.csv --into cleaned
  the files in place  washout clean --rule "remove.chars = '#'" --rule 'trim = {}' stores.csv --write
"#,
    },
    Shown {
        files: &[(
            "stores.csv",
            "Item,Keeper,Note\noil #,Vey ,\"12 cans, \"\"new\"\"\"\nwick,\u{200b}Fenn,\nrope,Vey,\"two\nlines #\"\n",
        )],
        args: &["clean", "--rule", "drop_fields = [\"Note\"]", "stores.csv"],
        out: r#"
× goes   ^ comes   · blank   → tab   ↵ line end

stores.csv  1 field of the header changes

header  Note
        before  Note
                ××××  rule 1
        after   (nothing left)

 rule   what it does   changes   files
───────────────────────────────────────────
    1   drop “Note”          1       1

characters  82 → 43    lines  5 → 4
1 file would change

Nothing was written. To write:
  cleaned copies      washout clean --rule 'drop_fields = ["Note"]' stores.csv --into cleaned
  the files in place  washout clean --rule 'drop_fields = ["Note"]' stores.csv --write
"#,
    },
    Shown {
        files: &[(
            "stores.csv",
            "Item,Keeper,Note\noil #,Vey ,\"12 cans, \"\"new\"\"\"\nwick,\u{200b}Fenn,\nrope,Vey,\"two\nlines #\"\n",
        )],
        args: &["clean", "--rule", "{ drop_records = { repeated = \"file\" }, fields = [\"Keeper\"] }", "stores.csv"],
        out: r"
 rule   what it does            changes   files
─────────────────────────────────────────────────────────
    1   drop repeated records         0       0   ← none

characters  82 → 82    lines  5 → 5
0 files would change, 1 unchanged

Nothing to clean: no rule changes anything here.
",
    },
    Shown {
        files: &[(
            "stores.csv",
            "Item,Keeper,Note\noil #,Vey ,\"12 cans, \"\"new\"\"\"\nwick,\u{200b}Fenn,\nrope,Vey,\"two\nlines #\"\n",
        )],
        args: &["clean", "--rule", "rename_fields = { Item = \"Thing\" }", "stores.csv"],
        out: r#"
× goes   ^ comes   · blank   → tab   ↵ line end

stores.csv  1 field of the header changes

header  Item
        before  Item
                ××××  rule 1
        after   Thing
                ^^^^^

 rule   what it does               changes   files
───────────────────────────────────────────────────────
    1   rename “Item” to “Thing”         1       1

characters  82 → 83    lines  5 → 5
1 file would change

Nothing was written. To write:
  cleaned copies      washout clean --rule 'rename_fields = { Item = "Thing" }' stores.csv --into cleaned
  the files in place  washout clean --rule 'rename_fields = { Item = "Thing" }' stores.csv --write
"#,
    },
    Shown {
        files: &[(
            "stores.csv",
            "Item,Keeper,Note\noil #,Vey ,\"12 cans, \"\"new\"\"\"\nwick,\u{200b}Fenn,\nrope,Vey,\"two\nlines #\"\n",
        )],
        args: &[
            "clean",
            "--rule",
            "{ keep = { pattern = \"\\\\d+\" }, fields = [\"Note\"], to_field = \"Count\" }",
            "stores.csv",
        ],
        out: r#"
× goes   ^ comes   · blank   → tab   ↵ line end

stores.csv  1 cell in 3 records changes

     1  Count
        from    Note: 12 cans, "new"
        before  (empty)
        after   12
                ^^  rule 1

 rule   what it does            changes   files
────────────────────────────────────────────────────
    1   keep only pattern \d+         1       1

characters  82 → 93    lines  5 → 5
1 file would change

Nothing was written. To write:
  cleaned copies      washout clean --rule "{ keep = { pattern = \"\\\\d+\" }, fields = [\"Note\"], to_field = \"Count\" }" stores.csv --into cleaned
  the files in place  washout clean --rule "{ keep = { pattern = \"\\\\d+\" }, fields = [\"Note\"], to_field = \"Count\" }" stores.csv --write
"#,
    },
    Shown {
        files: &[("s.jsonl", "{\"item\":\"oil #\",\"n\":1}\n{\"item\":\"wick\"}\n")],
        args: &["clean", "--rule", "remove.chars = '#'", "s.jsonl"],
        out: r#"
× goes   ^ comes   · blank   → tab   ↵ line end

s.jsonl  1 cell in 2 records changes

     1  item
        before  oil #
                    ×  rule 1
        after   oil·

 rule   what it does          changes   files
──────────────────────────────────────────────────
    1   remove characters #         1       1

characters  39 → 38    lines  2 → 2
1 file would change

Nothing was written. To write:
  cleaned copies      washout clean --rule "remove.chars = '#'" s.jsonl --into cleaned
  the files in place  washout clean --rule "remove.chars = '#'" s.jsonl --write
"#,
    },
    Shown {
        files: &[
            ("Scan 1 (draft).tif", ""),
            ("scan 10.tif", ""),
            ("Scan 2 (draft).tif", ""),
            ("late/Fog  log.txt", ""),
        ],
        args: &[
            "names",
            "--rule",
            "remove.text = \" (draft)\"",
            "--rule",
            "recase.to = \"lower\"",
            "--rule",
            "replace = { text = \" \", with = \"-\" }",
            ".",
        ],
        out: r#"
× goes   ^ comes   · blank

./  3 of 3 names change

  Scan·1·(draft).tif  → scan-1.tif
  ××××××××××××××        ^^^^^^
  Scan·2·(draft).tif  → scan-2.tif
  ××××××××××××××        ^^^^^^
  scan·10.tif         → scan-10.tif
      ×                     ^

late/  1 of 1 name changes

  Fog··log.txt  → fog--log.txt
  ×  ××           ^  ^^

 rule   what it does                changes   names
────────────────────────────────────────────────────────
    1   remove text “ (draft)”            2       2
    2   put all in lower case             3       3
    3   replace text “ ” with “-”         5       4

4 names would change

Nothing was renamed. To rename:
   washout names --rule 'remove.text = " (draft)"' --rule 'recase.to = "lower"' --rule 'replace = { text = " ", with = "-" }' . --write
"#,
    },
    Shown {
        files: &[("a#.txt", ""), ("a.txt", ""), ("b#.txt", ""), ("b##.txt", "")],
        args: &["names", "--rule", "remove.chars = '#'", "."],
        out: r"
× goes   ^ comes   · blank

./  0 of 4 names change

  left alone
    a#.txt → a.txt
      `a.txt` is there already
    b##.txt → b.txt
      `b#.txt` would have the same name
    b#.txt → b.txt
      `b##.txt` would have the same name

 rule   what it does          changes   names
──────────────────────────────────────────────────
    1   remove characters #         4       3

0 names would change, 3 left alone (named above), 1 unchanged
",
    },
    Shown {
        files: &[("a#.txt", ""), ("a.txt", ""), ("b#.txt", ""), ("b##.txt", "")],
        args: &["names", "--rule", "remove.chars = '#'", "--on-clash", "number", "."],
        out: r#"
× goes   ^ comes   · blank

./  3 of 4 names change

  a#.txt   → a·(2).txt
   ×          ^^^^
  b##.txt  → b.txt
   ××
  b#.txt   → b·(2).txt
   ×          ^^^^

 rule   what it does          changes   names
──────────────────────────────────────────────────
    1   remove characters #         4       3

3 names would change, 1 unchanged

Nothing was renamed. To rename:
   washout names --rule "remove.chars = '#'" --on-clash number . --write
"#,
    },
    Shown {
        files: &[("log.txt", "[00:14] Fog # \nclear\n")],
        args: &[
            "trace",
            "--rule",
            "remove.stock = \"timestamp\"",
            "--rule",
            "remove.chars = '#'",
            "--rule",
            "trim = {}",
            "log.txt",
        ],
        out: r"
log.txt  21 characters, 2 lines
× goes   ^ comes   · blank   → tab   ↵ line end

   1  remove timestamps  1 change  21 → 13 characters

     1  before  [00:14]·Fog #·
                ××××××××
        after   Fog #·

   2  remove characters #  1 change  13 → 12 characters

     1  before  Fog #·
                    ×
        after   Fog··

   3  trim blank at both edges  1 change  12 → 10 characters

     1  before  Fog··
                   ××
        after   Fog

3 of 3 rules did something  21 → 10 characters

  Fog
  clear
",
    },
    Shown {
        files: &[("log.txt", "a\u{200b}\té\n")],
        args: &["spellout", "log.txt", "--rule", "remove.class=\"invisible\""],
        out: r"
log.txt  5 characters, 8 bytes

 place   code         name                   class       bytes      taken by
─────────────────────────────────────────────────────────────────────────────
     1   U+0061   a   LATIN SMALL LETTER A   lower       61
     2   U+200B       ZERO WIDTH SPACE       invisible   E2 80 8B   rule 1
     3   U+0009   →   CHARACTER TABULATION   blank       09
     4   U+00E9   é   LATIN SMALL LETTER E   lower       C3 A9
                      WITH ACUTE
     5   U+000A   ␊   LINE FEED              line-end    0A

rule 1  remove class invisible
",
    },
    Shown {
        files: &[("log.txt", "[00:14] Fog\u{a0} # \n\n\n12 clear\u{200b}\r\n")],
        args: &["survey", "log.txt"],
        out: r#"
1 file, 4 lines, 29 characters (32 bytes)
  encoding   UTF-8 (1 file)
  line ends  3 LF, 1 CRLF
  lines      the longest has 15 characters, log.txt:1; 2 empty

Unusual characters

 code         name               class       count   first place
──────────────────────────────────────────────────────────────────
 U+200B       ZERO WIDTH SPACE   invisible       1   log.txt:4:9
 U+00A0       NO-BREAK SPACE     odd-space       1   log.txt:1:12

Litter, and the rule that takes it  (found: from ▸ to ◂)

      1  mixed line ends  in 1 file
         line_ends = { to = "lf" }

      1  odd spaces  in 1 file
         log.txt:1:12  [00:14] Fog▸⟨U+00A0⟩◂ # 
         replace = { class = "odd-space", with = " " }

      1  time codes, within lines  in 1 file
         log.txt:1:1  ▸[00:14]·◂Fog⟨U+00A0⟩ # 
         remove = { stock = "timestamp" }
         off in a draft: a time may be part of the sentence

      1  invisible characters  in 1 file
         log.txt:4:9  12 clear▸⟨U+200B⟩◂
         remove = { class = "invisible" }

      1  bracketed groups  in 1 file
         log.txt:1:1  ▸[00:14]·◂Fog⟨U+00A0⟩ # 
         remove = { stock = "bracketed" }
         off in a draft: what stands in brackets may be wanted

      1  trailing blanks  in 1 file
         log.txt:1:15  [00:14] Fog⟨U+00A0⟩ #▸·◂
         trim = { at = "end" }

      1  extra empty lines  in 1 file
         log.txt:3:1  ▸◂
         drop_lines = { empty = "extra" }


To write these rules as a rule set, with a comment each:
   washout survey log.txt --draft draft.wash.toml
"#,
    },
];

#[test]
fn tables_names_and_single_characters_are_shown_as_what_they_are() {
    let mut wrong = Vec::new();
    for Shown { files, args, out } in SHOWN {
        let desk = TestDir::with(files);
        let output = desk.command().args(*args).env("COLUMNS", "80").output().expect("the built program");
        let said = String::from_utf8(output.stdout).expect("what is shown is UTF-8");
        let said = said.replace(env!("CARGO_BIN_EXE_washout"), "washout");
        if said.trim_end() != out.trim_start_matches('\n').trim_end() {
            wrong.push(format!("{args:?}\n{said}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
