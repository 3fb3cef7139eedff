//! The OpenAPI document. Types of the core crates describe themselves (schemars); they stand in it under their own names,
//! so that there is one source for each.

use nimbet_ledger::{Action, CheckSheet, CutBy, Edit, PartThread, SetMaterial, Setup, StepReport, StepState};
use nimbet_trade::examine::FaceFacts;
use nimbet_trade::fasten::{Allowances, BoreSeats, FitReport, Fitting, Pocket, Size};
use nimbet_trade::release::Check;
use nimbet_trade::seal::WrapForetold;
use nimbet_trade::wall::{PairReport, Process, WallFinding, WallReport};
use nimbet_trade::weigh::{Capacity, Cut, Faceting, Material, Measure, MeasuredValue, VolumeGuess};
use nimbet_trade::{Examination, Figures};
use schemars::generate::SchemaSettings;
use utoipa::openapi::schema::{ArrayBuilder, Schema};
use utoipa::openapi::{Ref, RefOr};

/// A function that refers to a type of the core crates by name.
macro_rules! refer {
    ($($function:ident => $name:literal),* $(,)?) => {
        $(pub(crate) fn $function() -> RefOr<Schema> {
            RefOr::Ref(Ref::from_schema_name($name))
        })*
    };
}

refer! {
    action => "Action",
    figures => "Figures",
    report => "StepReport",
    step_state => "StepState",
    edit => "Edit",
    sheet => "CheckSheet",
    losses => "Losses",
    weighing => "Weighing",
    material => "Material",
    check => "Check",
    format => "ReleaseFormat",
    unit => "LengthUnit",
    face => "FaceFacts",
    cut_by => "CutBy",
    process => "Process",
    setup => "Setup",
    set_material => "weigh.set_material",
    faceting => "Faceting",
    volume_guess => "VolumeGuess",
    capacity => "Capacity",
    cut => "Cut",
    measure => "Measure",
    measured => "MeasuredValue",
    wall_finding => "WallFinding",
    wall_report => "WallReport",
    pair_report => "PairReport",
    wrap_foretold => "WrapForetold",
    size => "Size",
    fitting => "Fitting",
    pocket => "Pocket",
    allowances => "Allowances",
    part_thread => "PartThread",
    fit_report => "FitReport",
    bore_seats => "BoreSeats",
}

pub(crate) fn check_list() -> RefOr<Schema> {
    ArrayBuilder::new().items(check()).into()
}

pub(crate) fn face_list() -> RefOr<Schema> {
    ArrayBuilder::new().items(face()).into()
}

pub(crate) fn cut_by_list() -> RefOr<Schema> {
    ArrayBuilder::new().items(cut_by()).into()
}

pub(crate) fn wall_finding_list() -> RefOr<Schema> {
    ArrayBuilder::new().items(wall_finding()).into()
}

pub(crate) fn process_list() -> RefOr<Schema> {
    ArrayBuilder::new().items(process()).into()
}

pub(crate) fn size_list() -> RefOr<Schema> {
    ArrayBuilder::new().items(size()).into()
}

pub(crate) fn fitting_list() -> RefOr<Schema> {
    ArrayBuilder::new().items(fitting()).into()
}

pub(crate) fn pocket_list() -> RefOr<Schema> {
    ArrayBuilder::new().items(pocket()).into()
}

pub(crate) fn allowances_list() -> RefOr<Schema> {
    ArrayBuilder::new().items(allowances()).into()
}

pub(crate) fn part_thread_list() -> RefOr<Schema> {
    ArrayBuilder::new().items(part_thread()).into()
}

pub(crate) fn material_list() -> RefOr<Schema> {
    ArrayBuilder::new().items(material()).into()
}

/// The whole document as JSON text, pretty.
pub fn openapi_json() -> String {
    let mut document = serde_json::to_value(crate::api::document()).unwrap_or_default();
    let mut generator =
        SchemaSettings::draft2020_12().with(|s| s.definitions_path = "/components/schemas".into()).into_generator();
    generator.subschema_for::<Action>();
    generator.subschema_for::<Examination>();
    generator.subschema_for::<Figures>();
    generator.subschema_for::<StepReport>();
    generator.subschema_for::<StepState>();
    generator.subschema_for::<Edit>();
    generator.subschema_for::<CheckSheet>();
    generator.subschema_for::<Check>();
    generator.subschema_for::<Material>();
    generator.subschema_for::<FaceFacts>();
    generator.subschema_for::<CutBy>();
    generator.subschema_for::<Process>();
    generator.subschema_for::<WallFinding>();
    generator.subschema_for::<Setup>();
    generator.subschema_for::<SetMaterial>();
    generator.subschema_for::<Faceting>();
    generator.subschema_for::<VolumeGuess>();
    generator.subschema_for::<Capacity>();
    generator.subschema_for::<Cut>();
    generator.subschema_for::<Measure>();
    generator.subschema_for::<MeasuredValue>();
    generator.subschema_for::<WallReport>();
    generator.subschema_for::<BoreSeats>();
    generator.subschema_for::<PairReport>();
    generator.subschema_for::<WrapForetold>();
    generator.subschema_for::<Size>();
    generator.subschema_for::<Fitting>();
    generator.subschema_for::<Pocket>();
    generator.subschema_for::<Allowances>();
    generator.subschema_for::<PartThread>();
    generator.subschema_for::<FitReport>();
    if let Some(schemas) = document.pointer_mut("/components/schemas").and_then(|s| s.as_object_mut()) {
        schemas.extend(generator.take_definitions(true));
    }
    serde_json::to_string_pretty(&document).unwrap_or_default() + "\n"
}
