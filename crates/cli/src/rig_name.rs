//! Which rig this machine is.

use crate::error::CmdError;
use honest_lap_core::record::{Study, is_rig_name};

/// What is known when a rig's name is to be chosen.
pub struct Known<'a> {
    /// What `--rig` says.
    pub asked: Option<&'a str>,
    /// Whether `--rebuilt` was given.
    pub rebuilt: bool,
    /// This machine's fingerprint.
    pub machine: Option<&'a str>,
    /// The rig under which this machine last recorded.
    pub recorded_as: Option<&'a str>,
    /// The fingerprint of the machine that last recorded under the asked name.
    pub recorded_by: Option<&'a str>,
}

/// The name of a machine that needs no other: the study names no rigs.
const ONLY_RIG: &str = "here";

/// Returns the rig that this machine is, or asks. One name is never used for two machines.
pub fn rig_name(study: &Study, known: &Known<'_>) -> Result<String, CmdError> {
    let name = match (known.asked, known.recorded_as) {
        (Some(asked), _) if !is_rig_name(asked) => {
            return Err(CmdError::request(
                format!("`{asked}` cannot name a rig"),
                "use 1 to 40 letters, digits, `-` and `_`, with a letter or digit first",
            ));
        }
        (Some(asked), _) => asked,
        (None, Some(recorded)) => recorded,
        (None, None) if study.rigs.is_empty() => ONLY_RIG,
        (None, None) => {
            let names: Vec<&str> = study.rigs.iter().map(|rig| rig.name.as_str()).collect();
            return Err(CmdError::request(
                format!("which rig is this machine? The study knows {}", names.join(", ")),
                format!("say it once: lap run --rig {} (any new name will do)", names[0]),
            ));
        }
    };
    match (known.recorded_by, known.machine) {
        (Some(theirs), Some(ours)) if theirs != ours && !known.rebuilt => Err(CmdError::request(
            format!("laps of rig {name} were recorded on another machine"),
            "give this machine a name of its own with --rig NAME; or, if it is the same machine \
             with its system set up anew, add --rebuilt",
        )),
        _ => Ok(name.to_owned()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn study(rigs: &[&str]) -> Study {
        let rigs: String = rigs.iter().map(|name| format!("[rig.{name}]\n")).collect();
        let text = format!("[workload.w]\nkind = \"task\"\ncommand = [\"x\"]\n{rigs}");
        honest_lap_study::read(&text).unwrap()
    }

    const NOTHING: Known<'static> = Known {
        asked: None,
        rebuilt: false,
        machine: Some("m"),
        recorded_as: None,
        recorded_by: None,
    };

    #[test]
    fn a_lone_machine_needs_no_name_and_a_known_one_keeps_its_own() {
        assert_eq!(rig_name(&study(&[]), &NOTHING).unwrap(), "here");
        let known = Known { recorded_as: Some("wren"), ..NOTHING };
        assert_eq!(rig_name(&study(&["heron"]), &known).unwrap(), "wren");
        assert!(rig_name(&study(&["heron"]), &NOTHING).is_err());
    }

    #[test]
    fn one_name_is_not_used_for_two_machines() {
        let other = Known { asked: Some("heron"), recorded_by: Some("other"), ..NOTHING };
        assert!(rig_name(&study(&[]), &other).is_err());
        let rebuilt = Known { rebuilt: true, ..other };
        assert_eq!(rig_name(&study(&[]), &rebuilt).unwrap(), "heron");
        let bad = Known { asked: Some("../x"), ..NOTHING };
        assert!(rig_name(&study(&[]), &bad).is_err());
    }
}
