//! What another engine works out, held to what the tool itself says.

use std::ops::Range;

/// Returns the block of SQL in a text of ours that holds `words`.
pub fn documented_sql(text: &str, words: &str) -> String {
    let blocks = text.match_indices("```sql\n").map(|(at, begin)| {
        let from = at + begin.len();
        let range: Range<usize> = from..from + text[from..].find("```").unwrap();
        &text[range]
    });
    let found: Vec<&str> = blocks.filter(|block| block.contains(words)).collect();
    assert_eq!(found.len(), 1, "one query holds {words}");
    found[0].to_owned()
}

/// Holds lines of `workload,variant,rig,typical,laps,sessions` to what `lap export sums` says of times.
pub fn held_to_sums(said: &str, sums: &str) {
    let mut rows = csv::Reader::from_reader(sums.as_bytes());
    let heading = rows.headers().unwrap().clone();
    let at = |name: &str| heading.iter().position(|known| known == name).unwrap();
    let mut compared = 0;
    for row in rows.records() {
        let row = row.unwrap();
        let of = |name: &str| row.get(at(name)).unwrap().to_owned();
        if of("measure") != "time" || of("laps_counted").is_empty() {
            continue;
        }
        let key = format!("{},{},{},", of("workload"), of("variant"), of("rig"));
        let line = said.lines().find(|line| line.starts_with(&key));
        let line = line.unwrap_or_else(|| panic!("{key}: {said}"));
        let told: Vec<f64> =
            line[key.len()..].split(',').map(|field| field.parse().unwrap()).collect();
        let typical: f64 = of("typical").parse().unwrap();
        assert!((told[0] / typical - 1.0).abs() < 1e-12, "{key}: {} {typical}", told[0]);
        assert_eq!(told[1], of("laps_counted").parse::<f64>().unwrap(), "{key}");
        assert_eq!(told[2], of("sessions").parse::<f64>().unwrap(), "{key}");
        compared += 1;
    }
    assert!(compared >= 10, "{compared}: {sums}");
}
