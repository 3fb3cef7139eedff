//! The bill of parts: what each weighs and costs, and whether it fits the bench or flask.

use nimbet_trade::PartState;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::history::{History, Part, PartId};
use crate::setup::Setup;

/// One part on the bill.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct BillLine {
    /// The part.
    pub id: PartId,
    /// Its name.
    pub part: String,
    /// Whether it is a solid; nothing else has a volume.
    pub state: PartState,
    /// The name of its material, once chosen.
    pub material: Option<String>,
    /// Density of that, g/cm³.
    pub density: Option<f64>,
    /// Enclosed volume, mm³.
    pub volume: Option<f64>,
    /// Mass, g.
    pub mass: Option<f64>,
    /// What its material costs, in the money of the house.
    pub cost: Option<f64>,
    /// Size along x, y and z, mm.
    pub size: [f64; 3],
    /// Whether it fits the job's bench, some way turned.
    pub fits: Option<bool>,
    /// How many of its threads are only marked, so that the figures do not have them.
    pub marked_threads: usize,
}

impl BillLine {
    /// What a part comes to.
    pub fn of(part: &Part, history: &History, setup: &Setup) -> Self {
        let chosen = part.material.as_ref();
        let (material, density) = chosen.and_then(|m| m.facts()).map_or((None, None), |(n, d)| (Some(n), Some(d)));
        let mass = part.figures.volume.zip(density).map(|(v, d)| v / 1000.0 * d);
        let price = chosen.and_then(|m| m.own.as_ref().map_or(setup.prices.get(&m.material).copied(), |own| own.price));
        let sorted = |mut size: [f64; 3]| {
            size.sort_by(f64::total_cmp);
            size
        };
        let within = |bench| sorted(part.figures.size).iter().zip(sorted(bench)).all(|(part, bench)| *part <= bench);
        Self {
            id: part.id,
            part: part.name.clone(),
            state: part.figures.state,
            material: material.map(str::to_owned),
            density,
            volume: part.figures.volume,
            mass,
            cost: mass.zip(price).map(|(m, p)| m * p),
            size: part.figures.size,
            fits: setup.bench.map(within),
            marked_threads: history.threads(part.id).iter().filter(|t| !t.mark.cut).count(),
        }
    }

    /// All parts of a job.
    pub fn all(history: &History, setup: &Setup) -> Vec<Self> {
        history.parts().iter().map(|part| Self::of(part, history, setup)).collect()
    }
}

/// A bill as CSV (RFC 4180).
pub fn bill_csv(lines: &[BillLine]) -> String {
    let mut csv = String::from(
        "part,state,material,density g/cm3,volume mm3,mass g,cost,size x mm,size y mm,size z mm,fits the bench,\
         threads only marked\r\n",
    );
    let text = |x: Option<f64>| x.map_or(String::new(), |x| format!("{x:.3}"));
    // What begins like a formula would be worked out by a program that opens this: an apostrophe makes it text.
    let formula = |s: &str| s.starts_with(['=', '+', '-', '@', '\t', '\r']);
    let quoted = |s: &str| format!("\"{}{}\"", if formula(s) { "'" } else { "" }, s.replace('"', "\"\""));
    for line in lines {
        let [x, y, z] = line.size;
        let state = match line.state {
            PartState::Open => "open",
            PartState::Tangled => "tangled",
            PartState::Flipped => "flipped",
            PartState::Sealed => "sealed",
        };
        csv.push_str(&format!(
            "{},{state},{},{},{},{},{},{x:.3},{y:.3},{z:.3},{},{}\r\n",
            quoted(&line.part),
            quoted(line.material.as_deref().unwrap_or_default()),
            text(line.density),
            text(line.volume),
            text(line.mass),
            text(line.cost),
            line.fits.map_or("", |fits| if fits { "yes" } else { "no" }),
            line.marked_threads,
        ));
    }
    csv
}
