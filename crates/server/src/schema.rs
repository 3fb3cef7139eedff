//! The OpenAPI document. Types of the core crates describe themselves (schemars); they stand in it under their own names,
//! so that there is one source for each.

use nimbet_formats::{LengthUnit, ReleaseFormat};
use nimbet_ledger::{
    Action, CheckSheet, CutBy, Edit, Losses, OfferedBody, PartThread, SetMaterial, Setup, StepReport, StepState,
};
use nimbet_trade::budget::Cost;
use nimbet_trade::examine::FaceFacts;
use nimbet_trade::fasten::{Allowances, BoreSeats, FitReport, Fitting, Pocket, Size};
use nimbet_trade::release::Check;
use nimbet_trade::shape::{BoardRequest, BoardView, Carried, Course, EdgeRuns, Line, Shape};
use nimbet_trade::wall::{PairReport, Process, WallFinding, WallReport};
use nimbet_trade::weigh::{Capacity, Cut, Faceting, Material, Measure, MeasuredValue, VolumeGuess, Weighing};
use nimbet_trade::{Examination, Figures};
use schemars::generate::SchemaSettings;
use schemars::{JsonSchema, SchemaGenerator};
use utoipa::openapi::schema::{ArrayBuilder, Schema};
use utoipa::openapi::{Ref, RefOr};

/// Types of the core crates: a function that refers to each by its name, one for each list of them, and one that describes all.
macro_rules! described {
    ($($function:ident: $type:ty),*; lists: $($list:ident: $item:ty),*; also: $($also:ty),*) => {
        $(pub(crate) fn $function() -> RefOr<Schema> {
            RefOr::Ref(Ref::from_schema_name(<$type>::schema_name()))
        })*

        $(pub(crate) fn $list() -> RefOr<Schema> {
            let item = RefOr::<Schema>::Ref(Ref::from_schema_name(<$item>::schema_name()));
            ArrayBuilder::new().items(item).into()
        })*

        fn describe(generator: &mut SchemaGenerator) {
            $(generator.subschema_for::<$type>();)*
            $(generator.subschema_for::<$item>();)*
            $(generator.subschema_for::<$also>();)*
        }
    };
}

described! {
    action: Action,
    figures: Figures,
    report: StepReport,
    step_state: StepState,
    edit: Edit,
    sheet: CheckSheet,
    losses: Losses,
    weighing: Weighing,
    format: ReleaseFormat,
    unit: LengthUnit,
    setup: Setup,
    set_material: SetMaterial,
    faceting: Faceting,
    volume_guess: VolumeGuess,
    capacity: Capacity,
    cut: Cut,
    measure: Measure,
    measured: MeasuredValue,
    wall_report: WallReport,
    pair_report: PairReport,
    cost: Cost,
    fit_report: FitReport,
    bore_seats: BoreSeats,
    edge_runs: EdgeRuns,
    course: Course,
    board_request: BoardRequest,
    board_view: BoardView,
    carried: Carried;
    lists:
    check_list: Check,
    body_list: OfferedBody,
    face_list: FaceFacts,
    cut_by_list: CutBy,
    wall_finding_list: WallFinding,
    process_list: Process,
    size_list: Size,
    fitting_list: Fitting,
    pocket_list: Pocket,
    allowances_list: Allowances,
    part_thread_list: PartThread,
    material_list: Material,
    shape_list: Shape,
    line_list: Line;
    also: Examination
}

/// The whole document as JSON text, pretty.
pub fn openapi_json() -> String {
    let mut document = serde_json::to_value(crate::api::document()).unwrap_or_default();
    let mut generator =
        SchemaSettings::draft2020_12().with(|s| s.definitions_path = "/components/schemas".into()).into_generator();
    describe(&mut generator);
    if let Some(schemas) = document.pointer_mut("/components/schemas").and_then(|s| s.as_object_mut()) {
        schemas.extend(generator.take_definitions(true));
    }
    serde_json::to_string_pretty(&document).unwrap_or_default() + "\n"
}
