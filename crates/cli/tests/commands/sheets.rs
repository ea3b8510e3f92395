//! Tables that people keep: taken in once, corrected, dated, refused with the cell; CSV and workbooks.
//!
//! Runs for about 6 s on two cores.
//! Long, since tables stand in it as people keep them.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::TestEnv;
use std::fmt::Write as _;
use std::io::{Cursor, Write as _};
use zip::ZipWriter;
use zip::write::SimpleFileOptions;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

const STUDY: &str = "# what the lab keeps\n[study]\ntitle = \"Cards\" # all of them\n\
    [workload.dome-still]\nkind = \"task\"\nby_hand = \"render a still\"\n\
    [workload.tunnel]\nkind = \"task\"\nby_hand = \"fly it\"\nvary = { quality = [\"high\", \"low\"] }\n\
    [workload.suite]\nkind = \"score\"\nby_hand = \"read its page\"\n\
    readings = [{ name = \"score\", unit = \"points\", better = \"more\" }]\n";

/// Returns a lab of 25 cards and the sheet that its keeper has: titles, notes, blanks, sums and units of all kinds.
fn untidy() -> (TestEnv, String) {
    let mut study = STUDY.to_owned();
    let mut sheet = "Cards of the harbour;;;;;;\n;;;;;;\n\
                     Card;Driver;Scene 1 (m:ss);Tunnel high, secs;tunnel (low) [s];Suite;Comments\n"
        .to_owned();
    for card in 1..=25 {
        let _ = writeln!(study, "[rig.card-{card:02}]");
        let (low, high) = (60.0 + f64::from(card), 90.0 + 1.5 * f64::from(card));
        let _ = writeln!(
            sheet,
            "Card {card:02};551.{card};7:{:02};{high};{low};{};",
            10 + card,
            8_000 + card
        );
        if card == 13 {
            sheet.push_str(";;;;;;\n");
        }
    }
    sheet.push_str("Average;;7:23;109,5;73;8013;\n");
    (TestEnv::with_study(LAP, &study), sheet)
}

const CALLED: [&str; 4] = ["enter", "--table", "cards.csv", "--column=Scene 1=dome-still"];

#[test]
fn a_card_is_added_to_a_table_of_25_by_one_command_and_the_same_file_again_takes_nothing() {
    let (env, sheet) = untidy();
    env.write("cards.csv", &sheet);
    let came = env.lap(&CALLED);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(came.stderr.contains("not read, worked out from others: Average"), "{came}");
    let more = sheet.replace("Average", "Osprey Mk II;552;6:40;80;OOM;9,000.5;loud\nAverage");
    env.write("cards.csv", &more);
    let unknown = env.lap(&CALLED);
    assert_eq!(unknown.status, Some(2), "{unknown}");
    assert!(
        unknown.stderr.contains("no rig is called `Osprey Mk II`; nothing was recorded"),
        "{unknown}"
    );
    let came = env.lap(&[&CALLED[..], &["--new-rig"]].concat());
    assert!(came.stderr.contains("osprey-mk-ii-1: 4 laps recorded"), "{came}");
    assert!(came.stderr.contains("100 values on record already"), "{came}");
    assert_eq!(came.stderr.matches("recorded\n").count(), 1, "one rig's session alone: {came}");
    let study = std::fs::read_to_string(env.path().join("study.toml")).unwrap();
    assert!(
        study.starts_with("# what the lab keeps") && study.contains("# all of them"),
        "{study}"
    );
    assert!(study.contains("[rig.osprey-mk-ii]\ntitle = \"Osprey Mk II\""), "{study}");
    let again = env.lap(&CALLED);
    assert_eq!(again.status, Some(0), "{again}");
    assert!(again.stderr.contains("nothing new: 104 values on record already"), "{again}");
    assert!(env.lap_ok(&["show"]).contains("26 sessions on 26 rigs: 103 laps counted"));
    let tunnel = env.lap_ok(&["compare", "tunnel", "--format", "csv"]);
    let osprey =
        tunnel.lines().find(|line| line.contains("quality=low") && line.contains("osprey"));
    assert!(osprey.is_some_and(|line| line.contains("failed")), "{tunnel}");
    let doubts = env.lap(&["doubts"]).stdout;
    assert!(!doubts.contains("missing"), "what failed is not asked for again: {doubts}");
}

#[test]
fn a_sheet_that_is_imported_thrice_is_one_reading_and_no_verdict() {
    let env = TestEnv::with_study(LAP, &format!("{STUDY}[rig.heron]\n[rig.wren]\n"));
    env.write("cards.csv", "rig,dome-still [s]\nheron,100\nwren,130\n");
    for _ in 0..3 {
        env.lap_ok(&["enter", "--table", "cards.csv"]);
    }
    assert!(env.lap_ok(&["show"]).contains("2 sessions on 2 rigs: 2 laps counted"));
    let compared = env.lap_ok(&["compare", "dome-still"]);
    assert!(!compared.contains("slower") && compared.contains("1 lap"), "{compared}");
}

#[test]
fn what_is_on_record_otherwise_is_asked_about_and_the_older_figure_stays_on_record() {
    let env = TestEnv::with_study(LAP, &format!("{STUDY}[rig.heron]\n"));
    let table =
        |seconds: u32| env.write("cards.csv", &format!("rig,dome-still [s]\nheron,{seconds}\n"));
    table(100);
    env.lap_ok(&["enter", "--table", "cards.csv"]);
    table(103);
    let asked = env.lap(&["enter", "--table", "cards.csv"]);
    assert_eq!(asked.status, Some(2), "{asked}");
    assert!(
        asked
            .stderr
            .contains("B2: dome-still, time on heron is 103.0 s, and heron-1.1 has 100.0 s"),
        "{asked}"
    );
    let preview = env.lap(&["enter", "--table", "cards.csv", "--preview"]);
    assert_eq!(preview.status, Some(1), "it would be asked: {preview}");
    assert!(preview.stderr.contains("0 new laps, 1 changed lap"), "{preview}");
    let came = env.lap(&["enter", "--table", "cards.csv", "--supersede"]);
    assert!(came.stderr.contains("heron-1.1 is set aside: superseded by heron-2.1"), "{came}");
    assert!(
        env.lap_ok(&["show"]).contains("1 lap counted"),
        "the older one stays, and does not count"
    );
    assert!(env.lap_ok(&["show", "heron-1"]).contains("100 s"));
    table(105);
    env.lap_ok(&["enter", "--table", "cards.csv", "--further"]);
    assert!(env.lap_ok(&["show"]).contains("2 laps counted"));
    // One by one, of today: the same again is known, and a further lap is one when that is said.
    let known = env.lap(&["enter", "dome-still", "--rig", "heron", "105 s"]);
    assert!(known.stderr.contains("nothing new: 1 value on record already"), "{known}");
    env.lap_ok(&["enter", "dome-still", "--rig", "heron", "105 s", "--further"]);
    assert!(env.lap_ok(&["show"]).contains("3 laps counted"));
    // A retest takes the place of all that was typed of its cell, also where it came out alike.
    let retest = env.lap(&["enter", "dome-still", "--rig", "heron", "105 s", "--supersede"]);
    assert_eq!(retest.stderr.matches("is set aside: superseded by").count(), 3, "{retest}");
    assert!(env.lap_ok(&["show"]).contains("1 lap counted"));
    env.lap_ok(&["verify"]);
}

#[test]
fn values_carry_the_day_they_were_measured_on() {
    let env = TestEnv::with_study(LAP, &format!("{STUDY}[rig.heron]\n"));
    env.write("old.csv", "rig,tested on,dome-still [s]\nheron,2024-03-14,100\nheron,2024-03-14,101\nheron,2024-09-20,102\n");
    let came = env.lap(&["enter", "--table", "old.csv"]);
    assert!(came.stderr.contains("heron-1: 2 laps recorded, of 2024-03-14"), "{came}");
    assert!(came.stderr.contains("heron-2: 1 lap recorded, of 2024-09-20"), "{came}");
    env.lap_ok(&["enter", "dome-still", "--rig", "heron", "103 s", "--on", "2024-09-20"]);
    let shown = env.lap_ok(&["show"]);
    assert!(shown.contains("2024-03-14") && shown.contains("3 sessions on 1 rig"), "{shown}");
    let compared = env.lap_ok(&["compare", "dome-still"]);
    assert!(
        compared.contains("4, 2 sessions"),
        "two days, however often values were typed: {compared}"
    );
    let late = env.lap(&["enter", "dome-still", "--rig", "heron", "103 s", "--on", "2999-01-01"]);
    assert!(late.status == Some(2) && late.stderr.contains("is yet to come"), "{late}");
    let odd = env.lap(&["enter", "dome-still", "--rig", "heron", "103 s", "--on", "3/4/2025"]);
    assert!(odd.status == Some(2) && odd.stderr.contains("where months do"), "{odd}");
}

#[test]
fn tries_that_failed_and_what_a_rig_cannot_do_stand_in_their_row() {
    let study = format!(
        "{STUDY}[rig.heron]\n[rig.wren]\nunsupported = {{ \"tunnel quality=high\" = \"too little memory\" }}\n[rig.owl]\n"
    );
    let env = TestEnv::with_study(LAP, &study);
    for (rig, quality) in [("heron", "high"), ("heron", "low"), ("wren", "low")] {
        let with = format!("quality={quality}");
        env.lap_ok(&["enter", "tunnel", "--rig", rig, "--with", &with, "90 s", "91 s", "92 s"]);
    }
    for quality in ["quality=low", "quality=high"] {
        let failed = ["--with", quality, "--failed", "out of memory"];
        env.lap_ok(&[&["enter", "tunnel", "--rig", "owl"], &failed[..]].concat());
    }
    let rows = env.lap_ok(&["compare", "tunnel", "--format", "csv"]);
    let row = |rig: &str, quality: &str| {
        let line = rows
            .lines()
            .find(|line| line.contains(rig) && line.contains(&format!("quality={quality}")));
        line.unwrap_or_else(|| panic!("{rig} {quality}: {rows}")).to_owned()
    };
    assert!(
        row("wren", "high").contains("unsupported") && !row("wren", "low").contains("unsupported")
    );
    assert!(row("owl", "low").contains("failed"), "{rows}");
    let shown = env.lap_ok(&["compare", "tunnel", "--with", "quality=low"]);
    assert!(shown.contains("failed: out of memory"), "{shown}");
    let doubts = env.lap(&["doubts"]).stdout;
    assert!(!doubts.contains("missing"), "what failed or cannot be is not asked for: {doubts}");
    assert!(env.lap_ok(&["show", "owl-1.1"]).contains("out of memory"));
    env.write("study.toml", &study.replace("tunnel quality=high", "tunel quality=high"));
    let wrong = env.lap(&["compare"]);
    assert!(
        wrong.status == Some(2) && wrong.stderr.contains("did you mean \"tunnel\"?"),
        "{wrong}"
    );
    env.write("study.toml", &study.replace("tunnel quality=high", "tunnel quality=hihg"));
    assert!(env.lap(&["compare"]).stderr.contains("no variants with `quality=hihg`"));
}

#[test]
fn every_mistake_of_a_table_is_told_with_its_cell_and_nothing_is_recorded() {
    let env = TestEnv::with_study(LAP, &format!("{STUDY}[rig.heron]\n"));
    env.write("bad.csv", "rig,dome-still,tunnel,suite\nheron,52,90 s,8x\nheron,53,,812 kB\n");
    let came = env.lap(&["enter", "--table", "bad.csv"]);
    assert_eq!(came.status, Some(2), "{came}");
    for line in [
        "5 mistakes; nothing was recorded",
        "B2: `52` is a number without a unit; 1 cell below it alike",
        "C2: tunnel varies `quality`, and it is not given",
        "D2: `8x`",
        "D3: `812 kB` is in `kB`",
    ] {
        assert!(came.stderr.contains(line), "{line}: {came}");
    }
    assert!(!env.path().join("logbook.db").exists());
}

#[test]
fn a_session_is_set_aside_whole_or_one_workload_of_it() {
    let env = TestEnv::with_study(LAP, &format!("{STUDY}[rig.heron]\n"));
    env.write("cards.csv", "rig,dome-still [s],suite\nheron,100,8000\nheron,101,8010\n");
    env.lap_ok(&["enter", "--table", "cards.csv"]);
    env.lap_ok(&["set-aside", "heron-1", "--workload", "suite", "--why", "another version"]);
    assert!(env.lap_ok(&["show"]).contains("2 laps counted"));
    env.lap_ok(&["set-aside", "heron-1", "--why", "the wrong scene"]);
    assert!(env.lap_ok(&["show"]).contains("0 laps counted"));
    let none = env.lap(&["set-aside", "heron-1", "--why", "again"]);
    assert!(none.status == Some(2) && none.stderr.contains("no lap in heron-1 is left"), "{none}");
    env.lap_ok(&["set-aside", "heron-1", "--take-back", "--why", "it was right"]);
    assert!(env.lap_ok(&["show"]).contains("4 laps counted"));
}

#[test]
fn a_study_is_made_of_a_table_which_it_then_reads_as_it_is() {
    let env = TestEnv::new(LAP);
    env.write(
        "cards.csv",
        "Cards of the spring;;;;\nCard;Scene 1 (m:ss);Export, secs;Suite [points];Notes\n\
         Osprey Mk II;7:52;90.5;8120;loud\nHeron;8:01;OOM;8000;\nAverage;7:56;90.5;8060;\n",
    );
    let wrote = env.lap_ok(&["init", "--for", "sheet", "cards.csv"]);
    assert!(wrote.contains("lap enter --table 'cards.csv'"), "{wrote}");
    let came = env.lap(&["enter", "--table", "cards.csv"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(came.stderr.contains("osprey-mk-ii-1: 3 laps recorded"), "{came}");
    let study = std::fs::read_to_string(env.path().join("study.toml")).unwrap();
    assert!(
        study.contains("title = \"Osprey Mk II\"") && study.contains("unit = \"points\""),
        "{study}"
    );
    assert_eq!(env.lap_ok(&["show", "--format", "csv"]).lines().count(), 3);
    let again = env.lap(&["init", "--for", "sheet", "cards.csv"]);
    assert!(again.status == Some(2) && again.stderr.contains("is there already"), "{again}");
    let missing = env.lap(&["init", "--for", "sheet", "no.csv"]);
    assert!(
        missing.status == Some(2) && missing.stderr.contains("cannot read no.csv"),
        "{missing}"
    );
    env.write("words.csv", "card,notes\nheron,loud\n");
    let none = env.lap(&["init", "--for", "sheet", "words.csv"]);
    assert!(none.status == Some(2) && none.stderr.contains("no headings with results"), "{none}");
}

/// Returns an archive of these files.
fn archive(files: &[(&str, &str)]) -> Vec<u8> {
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    for (name, text) in files {
        zip.start_file(*name, SimpleFileOptions::default()).unwrap();
        zip.write_all(text.as_bytes()).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

/// Returns a workbook of one sheet, whose cells are written as `rows` says.
pub(super) fn xlsx(rows: &str) -> Vec<u8> {
    const RELATION: &str = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
    const MAIN: &str = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";
    let types = "<Types xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\"/>";
    let book = format!(
        "<workbook xmlns=\"{MAIN}\" xmlns:r=\"{RELATION}\"><sheets>\
         <sheet name=\"Cards\" sheetId=\"1\" r:id=\"rId1\"/></sheets></workbook>"
    );
    let relations = format!(
        "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\">\
         <Relationship Id=\"rId1\" Type=\"{RELATION}/worksheet\" Target=\"worksheets/sheet1.xml\"/>\
         <Relationship Id=\"rId2\" Type=\"{RELATION}/styles\" Target=\"styles.xml\"/></Relationships>"
    );
    // Style 1 is a day, style 2 a span of time.
    let styles = format!(
        "<styleSheet xmlns=\"{MAIN}\"><cellXfs count=\"3\"><xf numFmtId=\"0\"/><xf numFmtId=\"14\"/>\
         <xf numFmtId=\"46\"/></cellXfs></styleSheet>"
    );
    let sheet = format!("<worksheet xmlns=\"{MAIN}\"><sheetData>{rows}</sheetData></worksheet>");
    let root = format!(
        "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\">\
         <Relationship Id=\"rId1\" Type=\"{RELATION}/officeDocument\" Target=\"xl/workbook.xml\"/></Relationships>"
    );
    archive(&[
        ("[Content_Types].xml", types),
        ("_rels/.rels", &root),
        ("xl/workbook.xml", &book),
        ("xl/_rels/workbook.xml.rels", &relations),
        ("xl/styles.xml", &styles),
        ("xl/worksheets/sheet1.xml", &sheet),
    ])
}

fn text_cell(at: &str, text: &str) -> String {
    format!("<c r=\"{at}\" t=\"inlineStr\"><is><t>{text}</t></is></c>")
}

/// Returns an open document of one sheet with these rows.
fn ods(rows: &str) -> Vec<u8> {
    let names = ["office", "table", "text"]
        .map(|name| format!("xmlns:{name}=\"urn:oasis:names:tc:opendocument:xmlns:{name}:1.0\""));
    let content = format!(
        "<office:document-content {}><office:body><office:spreadsheet><table:table table:name=\"Cards\">\
         {rows}</table:table></office:spreadsheet></office:body></office:document-content>",
        names.join(" ")
    );
    archive(&[
        ("mimetype", "application/vnd.oasis.opendocument.spreadsheet"),
        ("META-INF/manifest.xml", "<manifest/>"),
        ("content.xml", &content),
    ])
}

#[test]
fn workbooks_are_read_as_they_are_shown() {
    let env = TestEnv::with_study(LAP, &format!("{STUDY}[rig.heron]\n"));
    let rows = format!(
        "<row r=\"2\">{}{}{}{}</row><row r=\"3\">{}<c r=\"C3\" s=\"1\"><v>46095</v></c>\
         <c r=\"D3\" s=\"2\"><v>{}</v></c><c r=\"E3\"><v>8120.000000000001</v></c></row>",
        text_cell("B2", "Card"),
        text_cell("C2", "Date"),
        text_cell("D2", "Dome-Still"),
        text_cell("E2", "Suite"),
        text_cell("B3", "Heron"),
        472.0 / 86_400.0,
    );
    std::fs::write(env.path().join("cards.xlsx"), xlsx(&rows)).unwrap();
    let came = env.lap(&["enter", "--table", "cards.xlsx"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(came.stderr.contains("D3: 0:07:52 is read as 7 min 52 s"), "{came}");
    assert!(came.stderr.contains("2 laps recorded, of 2026-03-14"), "{came}");
    let laps = env.lap_ok(&["show", "heron-1", "--format", "csv"]);
    assert!(laps.contains(",472000000000,") && laps.contains("8120 points"), "{laps}");
    let other = env.lap(&["enter", "--table", "cards.xlsx", "--worksheet", "Rings"]);
    assert!(other.status == Some(2) && other.stderr.contains("it has: Cards"), "{other}");

    let cell = |text: &str| {
        format!(
            "<table:table-cell office:value-type=\"string\"><text:p>{text}</text:p></table:table-cell>"
        )
    };
    let rows = format!(
        "<table:table-row>{}{}</table:table-row><table:table-row>{}\
         <table:table-cell office:value-type=\"time\" office:time-value=\"PT00H07M52S\"><text:p>07:52</text:p></table:table-cell>\
         <table:table-cell table:number-columns-repeated=\"16382\"/></table:table-row>\
         <table:table-row table:number-rows-repeated=\"1048573\"><table:table-cell table:number-columns-repeated=\"16384\"/></table:table-row>",
        cell("Card"),
        cell("Dome-Still"),
        cell("Heron"),
    );
    std::fs::write(env.path().join("cards.ods"), ods(&rows)).unwrap();
    let again = env.lap(&["enter", "--table", "cards.ods"]);
    assert!(again.stderr.contains("nothing new: 1 value on record already"), "{again}");
}

#[test]
fn a_workbook_that_unpacks_to_anything_is_refused_in_a_moment() {
    let env = TestEnv::with_study(LAP, &format!("{STUDY}[rig.heron]\n"));
    let far = format!(
        "<row r=\"1\">{}</row><row r=\"1048576\">{}</row>",
        text_cell("A1", "rig"),
        text_cell("XFD1048576", "5")
    );
    let repeated = "<table:table-row table:number-rows-repeated=\"1048576\">\
        <table:table-cell office:value-type=\"float\" office:value=\"5\" table:number-columns-repeated=\"16384\"/></table:table-row>";
    let long = format!("<row r=\"1\">{}</row>", text_cell("A1", &"a".repeat(1 << 28)));
    let hostile = [
        ("far.xlsx", xlsx(&far)),
        ("repeated.ods", ods(repeated)),
        ("long.xlsx", xlsx(&long)),
        ("cut.xlsx", xlsx(&far)[..300].to_vec()),
        ("other.xlsx", archive(&[("a.txt", "nothing")])),
    ];
    for (name, bytes) in hostile {
        std::fs::write(env.path().join(name), bytes).unwrap();
        let came = env.lap(&["enter", "--table", name, "--rig", "heron"]);
        assert_eq!(came.status, Some(2), "{name}: {came}");
        assert!(came.stderr.contains("nothing was recorded"), "{name}: {came}");
    }
    assert!(!env.path().join("logbook.db").exists());
}

#[test]
fn single_results_are_judged_by_what_other_laps_or_the_study_lend_and_called_assumed() {
    let lab = |stated: &str, rows: &str| {
        let env =
            TestEnv::with_study(LAP, &STUDY.replace("[study]\n", &format!("[study]\n{stated}")));
        env.write("t.csv", &format!("rig;suite\n{rows}"));
        let came = env.lap(&["enter", "--table", "t.csv", "--new-rig"]);
        assert_eq!(came.status, Some(0), "{came}");
        env.lap(&["compare", "suite", "--format", "csv"]).stdout
    };
    let singles = "osprey;410\nkestrel;800\n";
    assert!(
        lab("", singles).contains("no verdict: 1 lap"),
        "nothing is known of how far laps differ"
    );
    let stated = lab("assume_cv = \"2%\"\n", singles);
    assert!(stated.contains(",better,assumed-spread,"), "{stated}");
    let lent = lab("", &format!("{singles}heron;300\nheron;304\nheron;299\n"));
    assert!(lent.contains("assumed-spread") && !lent.contains("no verdict"), "{lent}");
}

/// Returns a table of eight rigs and three workloads as `slip` changes it, entered, and what is doubted of it.
fn doubts_of(slip: &dyn Fn(&str, usize, f64) -> f64) -> String {
    let env = TestEnv::with_study(LAP, STUDY);
    let mut sheet = "rig;dome-still [s];tunnel high [s];tunnel low [s]\n".to_owned();
    for (at, rig) in ["heron", "wren", "osprey", "kestrel", "teal", "lark", "plover", "dunlin"]
        .into_iter()
        .enumerate()
    {
        let slow = 1.0 + 0.17 * at as f64;
        let value = |column: usize, seconds: f64| {
            let wobble = 1.0 + 0.01 * (((at * 5 + column * 3) % 7) as f64 - 3.0);
            (slip(rig, column, seconds * slow * wobble) * 10.0).round() / 10.0
        };
        let _ = writeln!(sheet, "{rig};{};{};{}", value(0, 410.0), value(1, 123.0), value(2, 64.0));
    }
    env.write("t.csv", &sheet);
    let came = env.lap(&["enter", "--table", "t.csv", "--new-rig", "--sure"]);
    assert_eq!(came.status, Some(0), "{came}");
    env.lap(&["doubts", "--format", "csv"]).stdout
}

#[test]
fn a_number_that_does_not_fit_is_doubted_with_what_it_may_have_been_meant_to_be() {
    let clean = doubts_of(&|_, _, value| value);
    assert!(!clean.contains("does not fit") && !clean.contains("repeated"), "{clean}");
    let ten = doubts_of(&|rig, column, value| match (rig, column) {
        ("kestrel", 1) => value * 10.0,
        _ => value,
    });
    assert!(ten.contains("tunnel,does not fit,") && ten.contains("a digit out of place?"), "{ten}");
    let exchanged = doubts_of(&|rig, column, value| match (rig, column) {
        ("wren", 0) => 410.0 * 1.85,
        ("lark", 0) => 410.0 * 1.17,
        _ => value,
    });
    assert!(exchanged.contains("exchanged with the"), "{exchanged}");
}

#[test]
fn what_one_owns_what_is_typed_in_watts_and_what_is_not_measured_yet_are_weighed() {
    let study = "[study]\nhour_worth = \"40 EUR\"\n[workload.still]\nkind = \"task\"\njobs_a_month = 300\n\
        by_hand = \"render a still\"\nreadings = [{ name = \"wall\", unit = \"W\", better = \"less\" }]\n\
        [rig.heron]\nowned = true\nsells_for = \"100 EUR\"\n[rig.wren]\nprice = \"500 EUR\"\n\
        [rig.osprey]\nprice = \"800 EUR\"\n";
    let env = TestEnv::with_study(LAP, study);
    let mut sheet = "rig;still [s];wall\n".to_owned();
    for (rig, seconds, watts) in [("heron", 300.0, 120.0), ("wren", 200.0, 150.0)] {
        for off in [-0.4, 0.0, 0.5, 0.2] {
            let _ = writeln!(sheet, "{rig};{};{}", seconds + off, watts + off);
        }
    }
    env.write("t.csv", &sheet);
    let came = env.lap(&["enter", "--table", "t.csv"]);
    assert_eq!(came.status, Some(0), "{came}");
    let said = env.lap_ok(&["value"]);
    let said_in_line = said.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(said_in_line.contains("heron owned baseline"), "{said}");
    // 1.5× the work at 150 of 120 W.
    assert!(said_in_line.contains("150") && said_in_line.contains("1.20×"), "{said}");
    assert!(said_in_line.contains("Power is what was read as `wall`"), "{said}");
    assert!(said_in_line.contains("osprey 800 EUR 2.40×, wren 1.50×, wren"), "{said}");
    // 300 · 100 s = 8.33 h at 40 EUR: (500 − 100)/333 = 1.2 months.
    let said = env.lap_ok(&["value", "--from", "heron", "--to", "wren"]);
    let pays = said.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(
        pays.contains("Its price of 500 EUR, less 100 EUR for heron, is paid in about 1.2"),
        "{said}"
    );
    let index = env.lap_ok(&["compare", "--overall"]);
    assert!(index.contains("still 100 %"), "watts are no work: {index}");
}

#[test]
fn columns_that_the_study_does_not_know_are_added_as_workloads_once_that_is_said() {
    let env = TestEnv::with_study(LAP, &format!("{STUDY}[rig.heron]\n"));
    env.write("t.csv", "rig;Scene 1 (m:ss);Noise [dB]\nheron;7:52;31\nheron;7:50;32\n");
    let study = || std::fs::read_to_string(env.path().join("study.toml")).unwrap();
    let unknown = env.lap(&["enter", "--table", "t.csv"]);
    assert_eq!(unknown.status, Some(2), "{unknown}");
    assert!(unknown.stderr.contains("or add it: --new-workload"), "{unknown}");
    let before = study();
    let preview = env.lap(&["enter", "--table", "t.csv", "--new-workload", "--preview"]);
    assert_eq!((preview.status, study() == before), (Some(0), true), "{preview}");
    let came = env.lap(&["enter", "--table", "t.csv", "--new-workload"]);
    assert_eq!(came.status, Some(0), "{came}");
    assert!(came.stderr.contains("2 workloads added: scene-1 (Scene 1 (m:ss)), noise"), "{came}");
    assert!(study().starts_with(before.trim_end()) && study().contains("[workload.scene-1]"));
    assert!(env.lap_ok(&["compare", "scene-1"]).contains("471"), "7:51 in seconds");
}
