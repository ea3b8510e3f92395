//! One sheet in every form.

use super::{Cell, Column, Format, Group, Layout, Role, Sheet, write};
use proptest::prelude::*;

fn sheet(name: &str) -> Sheet {
    Sheet {
        schema: "honest-lap/example",
        version: 1,
        title: Some("Which machine?".into()),
        lead: vec!["heron is faster.".into()],
        groups: vec![Group {
            heading: Some("dome-still".into()),
            lead: Vec::new(),
            columns: vec![
                Column::text("rig", "rig"),
                Column::figure("typical_ns", "typical").unit("s"),
                Column::text("interval", "95 % interval").people(),
                Column::machine("low_ns"),
                Column::figure("cv", "CV"),
            ],
            rows: vec![
                vec![
                    Cell::text(name),
                    Cell::whole(5_612_345_678).shown("5.612"),
                    Cell::text("5.59 – 5.63").role(Role::Quiet),
                    Cell::whole(5_590_000_000),
                    Cell::number(0.004_25, "0.43 %"),
                ],
                vec![
                    Cell::text("wren"),
                    Cell::missing(),
                    Cell::missing(),
                    Cell::missing(),
                    Cell::missing(),
                ],
            ],
            layout: Layout::Table,
            drawing: Vec::new(),
            notes: vec!["wren: 1 lap could not start".into()],
        }],
        notes: vec!["95 % intervals are t intervals on logs.".into()],
    }
}

fn written(sheet: &Sheet, format: Format) -> String {
    let mut out = Vec::new();
    write(sheet, format, &mut out).unwrap();
    String::from_utf8(out).unwrap()
}

/// Text as it looks without its styles.
fn text(sheet: &Sheet, width: Option<usize>) -> String {
    let text = written(sheet, Format::Text { width });
    let mut plain = String::new();
    let mut rest = text.as_str();
    while let Some((before, after)) = rest.split_once('\x1b') {
        plain.push_str(before);
        rest = after.split_once('m').expect("only styles").1;
    }
    plain + rest
}

#[test]
fn text_aligns_and_rounds() {
    insta::assert_snapshot!(text(&sheet("heron"), Some(80)), @"
    Which machine?
    heron is faster.

    dome-still
    rig    typical  95 % interval      CV
               [s]
    heron    5.612  5.59 – 5.63    0.43 %
    wren         –  –                   –
    · wren: 1 lap could not start

    95 % intervals are t intervals on logs.
    ");
}

#[test]
fn a_narrow_terminal_gets_records_and_loses_nothing() {
    let narrow = text(&sheet("heron"), Some(30));
    assert!(narrow.lines().all(|line| line.chars().count() <= 30), "{narrow}");
    insta::assert_snapshot!(narrow, @"
    Which machine?
    heron is faster.

    dome-still
    rig            heron
    typical [s]    5.612
    95 % interval  5.59 – 5.63
    CV             0.43 %

    rig            wren
    typical [s]    –
    95 % interval  –
    CV             –
    · wren: 1 lap could not start

    95 % intervals are t intervals
    on logs.
    ");
}

#[test]
fn what_can_be_spared_goes_first_and_is_named() {
    let mut spare = sheet("heron");
    spare.groups[0].columns[4].spare = Some(1);
    let tight = text(&spare, Some(32));
    assert!(tight.contains("on a wider screen: CV"), "{tight}");
    assert!(tight.contains("rig    typical  95 % interval"), "{tight}");
    assert!(!text(&spare, Some(80)).contains("wider"));
}

#[test]
fn what_is_empty_is_no_column_and_what_is_the_same_is_said_once() {
    let mut same = sheet("heron");
    let group = &mut same.groups[0];
    group.columns[4].spare = Some(1);
    group.rows[1][4] = Cell::number(0.004_25, "0.43 %");
    group.rows[0][2] = Cell::missing();
    let said = text(&same, Some(80));
    assert!(!said.contains("95 % interval "), "{said}");
    assert!(said.contains("in every row: CV 0.43 %") && said.matches("CV").count() == 1, "{said}");
}

#[test]
fn machines_get_every_digit() {
    insta::assert_snapshot!(written(&sheet("heron"), Format::Csv), @"
    rig,typical_ns,low_ns,cv
    heron,5612345678,5590000000,0.00425
    wren,,,
    ");
    let json: serde_json::Value =
        serde_json::from_str(&written(&sheet("heron"), Format::Json)).unwrap();
    let row = &json["groups"][0]["rows"][0];
    assert_eq!((&row["typical_ns"], &row["cv"]), (&5_612_345_678u64.into(), &0.00425.into()));
    assert_eq!(row.get("interval"), None, "a column for people only");
    assert!(json["groups"][0]["rows"][1]["typical_ns"].is_null());
}

#[test]
fn markdown_is_a_table_in_which_nothing_is_markup() {
    insta::assert_snapshot!(written(&sheet("<b>|*x*"), Format::Markdown), @r"
    # Which machine?

    heron is faster.

    ## dome-still

    | rig | typical \[s\] | 95 % interval | CV |
    |---|---:|---|---:|
    | &lt;b&gt;\|\*x\* | 5.612 | 5.59 – 5.63 | 0.43 % |
    | wren | – | – | – |

    - wren: 1 lap could not start

    - 95 % intervals are t intervals on logs.
    ");
}

#[test]
fn no_name_reaches_a_terminal_raw_or_a_spreadsheet_as_a_formula() {
    let evil = sheet("=cmd()\x1b[2J\u{202e}");
    assert!(!text(&evil, None).contains(['\x1b', '\u{202e}']));
    assert!(written(&evil, Format::Csv).contains("'=cmd()"));
    assert!(written(&sheet("\t=1"), Format::Csv).contains("'\\t=1"), "a tab is spelled out, too");
    for start in ["+1", "-1", "@x"] {
        assert!(written(&sheet(start), Format::Csv).contains(&format!("'{start}")));
    }
}

proptest! {
    #[test]
    fn any_name_fits_any_width(name in "\\PC{0,60}", width in 20usize..120) {
        let text = text(&sheet(&name), Some(width));
        for line in text.lines() {
            prop_assert!(textwrap::core::display_width(line) <= width.max(32), "{line:?}");
        }
        let csv = written(&sheet(&name), Format::Csv);
        prop_assert_eq!(csv.matches("5612345678").count(), 1);
    }
}
