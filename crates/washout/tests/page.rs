//! Reports as pages, read by a real browser.
//!
//! The browser is Chromium, or what `WASHOUT_BROWSER` names.

mod support;

use std::path::Path;
use std::process::Command;

use support::{TestDir, cannot_run};

/// Asks the browser about a page: how it is drawn, with each filter and without.
const QUESTIONS: &str = r##"<script>
addEventListener("load", () => {
  const drawn = all => [...document.querySelectorAll(all)].filter(one => one.getClientRects().length > 0).length;
  const told = ["hunks " + drawn(".hunk:not(.head)"), "files " + drawn("section.file")];
  for (const radio of document.querySelectorAll("input[type=radio]")) {
    radio.click();
    told.push(radio.id + " " + drawn(".hunk:not(.head)"));
    if (radio.id === "rule-1") told.push("rule-1 files " + drawn("section.file"));
    document.querySelector("#" + radio.name + "-all").click();
  }
  const styled = name => getComputedStyle(document.querySelector(name)).textDecorationLine;
  told.push("del " + styled("del"), "ins " + styled("ins"));
  told.push("wider than the window: " + (document.documentElement.scrollWidth > innerWidth));
  told.push("focusable " + document.querySelectorAll("input").length);
  document.body.textContent = "TOLD " + told.join("; ") + " END";
});
</script>"##;

fn browser() -> Option<String> {
    let named = std::env::var("WASHOUT_BROWSER").ok();
    let runs = |name: &str| Command::new(name).arg("--version").output().is_ok_and(|output| output.status.success());
    if let Some(named) = named {
        assert!(runs(&named), "WASHOUT_BROWSER names {named}, which does not run");
        return Some(named);
    }
    ["chromium", "chromium-browser"].into_iter().find(|name| runs(name)).map(str::to_owned)
}

/// What the browser describes a page, which itself allows no script.
fn asked(browser: &str, page: &str, at: &Path) -> String {
    let policy =
        "<meta http-equiv=\"Content-Security-Policy\" content=\"default-src 'none'; style-src 'unsafe-inline'\">";
    assert!(page.contains(policy), "the page forbids scripts and everything from outside");
    std::fs::write(at, page.replace(policy, "") + QUESTIONS).expect("a written page");
    let mut command = Command::new(browser);
    command.args(["--headless", "--no-sandbox", "--disable-gpu", "--window-size=1280,800", "--dump-dom"]);
    command.arg(format!("--user-data-dir={}", at.with_extension("profile").display()));
    let output = command.arg(format!("file://{}", at.display())).output().expect("the browser ran");
    let dom = String::from_utf8_lossy(&output.stdout).into_owned();
    let told = dom.split("TOLD ").nth(1).and_then(|rest| rest.split(" END").next());
    told.unwrap_or_else(|| panic!("the browser told nothing:\n{dom}")).to_owned()
}

#[test]
fn a_page_shows_every_change_and_filters_by_rule_and_file_without_a_script() {
    let desk = TestDir::with(&[
        (
            "tidy.wash.toml",
            "[[rule]]\nlabel = 'no <b>'\nremove = { text = '<b>' }\n[[rule]]\nlabel = 'mist'\n\
          replace = { text = 'fog', with = 'mist' }\n[[rule]]\nremove.text = 'gale'\n",
        ),
        ("a.txt", "<b>x\nfog & oil\nsame\n<b>fog\n"),
        ("b <i>.txt", "<b>\u{200B}</b>\n"),
    ]);
    let ran = desk.run(&["clean", "-r", "tidy.wash.toml", "a.txt", "b <i>.txt", "--report", "page.html"]).status(0);
    ran.says(&["The report is in page.html"]);
    let page = desk.read("page.html");
    for part in [
        "<del>&lt;b&gt;</del>",
        "fog</del>",
        "<ins>mist</ins> &amp; oil",
        "⟨U+200B⟩&lt;/b&gt;",
        "b &lt;i&gt;.txt",
        "found nothing",
        "2 files would change",
    ] {
        assert!(page.contains(part), "no {part} in {page}");
    }
    for outside in ["<script", "http://", "https://", "<img", "<link", "url("] {
        assert!(!page.contains(outside), "{outside}");
    }
    let survey = desk.run(&["survey", "a.txt", "b <i>.txt", "--report", "survey.html"]).status(0);
    survey.says(&["The report is in survey.html"]);
    assert!(desk.read("survey.html").contains("ZERO WIDTH SPACE"));
    let Some(browser) = browser() else {
        return cannot_run("there is no browser: install Chromium, or name one with WASHOUT_BROWSER");
    };
    let told = asked(&browser, &page, &desk.path("asked.html"));
    let want = "hunks 4; files 2; rule-all 4; rule-0 3; rule-1 2; rule-1 files 1; file-all 4; file-0 3; file-1 1; \
                del line-through; ins underline; wider than the window: false; focusable 6";
    assert_eq!(told, want);
}
