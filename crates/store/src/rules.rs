//! Whether the rules of a store are still those that it was made with: an owner can take them away.

use crate::error::StoreError;
use crate::schema::{PACKED, SCHEMA, rules};
use crate::store::Store;
use honest_lap_logbook::carry::shapes;
use std::collections::BTreeSet;

impl Store {
    /// Returns what of the rules is gone, switched off or otherwise than it was made, in words; nothing where all hold.
    pub fn missing_rules(&mut self) -> Result<Vec<String>, StoreError> {
        let doing = || StoreError::of("reading its rules");
        let shapes = shapes();
        let rules = rules(&shapes);
        let mut missing = Vec::new();
        let asked = "SELECT c.relname || '.' || t.tgname FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid
             WHERE c.relnamespace = to_regnamespace($1) AND NOT t.tgisinternal AND t.tgenabled IN ('O', 'A')";
        let there = self.texts(asked)?;
        let tables = shapes.iter().map(|table| table.name).chain([PACKED, "store"]);
        let never = tables.map(|table| format!("{table}.never"));
        for trigger in triggers(&rules).into_iter().chain(never) {
            if !there.contains(&trigger) {
                missing.push(format!("the rule {trigger}"));
            }
        }
        let asked = "SELECT prosrc FROM pg_proc WHERE pronamespace = to_regnamespace($1)";
        let there = self.texts(asked)?;
        for (name, body) in functions(&rules) {
            if !there.contains(body) {
                missing.push(format!("the function {name}"));
            }
        }
        let asked = "SELECT relname::text FROM pg_class WHERE relnamespace = to_regnamespace($1)
             AND relname IN ('session', 'remark') AND NOT (relrowsecurity AND relforcerowsecurity)";
        for table in self.texts(asked)? {
            missing.push(format!("the row security of {table}"));
        }
        let asked = "SELECT count(*) FROM pg_constraint WHERE connamespace = to_regnamespace($1) AND convalidated
             AND conname IN ('lap_is_sealed', 'session_is_sealed', 'signature_is_of_a_seal', 'packed_check')";
        if self.client.query_one(asked, &[&SCHEMA]).map_err(doing())?.get::<_, i64>(0) < 4 {
            missing.push("that every record has its seal, and what is packed its hash,".to_owned());
        }
        Ok(missing)
    }

    /// Returns the texts that a question about the schema comes to.
    fn texts(&mut self, asked: &str) -> Result<BTreeSet<String>, StoreError> {
        let rows = self.client.query(asked, &[&SCHEMA]);
        let rows = rows.map_err(StoreError::of("reading its rules"))?;
        Ok(rows.iter().map(|row| row.get(0)).collect())
    }
}

/// Returns the triggers that the rules make, each as `table.name`.
fn triggers(rules: &str) -> Vec<String> {
    let made = rules.split("CREATE TRIGGER ").skip(1);
    let named = made.filter_map(|text| {
        let name = text.split_whitespace().next()?;
        let table = text.split(&format!(" ON {SCHEMA}.")).nth(1)?.split_whitespace().next()?;
        Some(format!("{table}.{name}"))
    });
    named.collect()
}

/// Returns the functions that the rules make, each with its body.
fn functions(rules: &str) -> Vec<(&str, &str)> {
    let made = rules.split("CREATE FUNCTION ").skip(1);
    made.filter_map(|text| Some((text.split('(').next()?, text.split("$$").nth(1)?))).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rules_are_found_in_what_makes_them() {
        let rules = rules(&shapes());
        let triggers = triggers(&rules);
        assert_eq!(triggers.len(), 8, "{triggers:?}");
        assert!(triggers.contains(&"seal.seals_hold".to_owned()), "{triggers:?}");
        let functions = functions(&rules);
        assert_eq!(
            functions.len(),
            16,
            "{:?}",
            functions.iter().map(|(name, _)| name).collect::<Vec<_>>()
        );
        assert!(
            functions.iter().all(|(name, body)| name.starts_with("honest_lap.") && body.len() > 20)
        );
    }
}
