// Writes the STEP files of crates/brep/tests/parts: made-up parts of which volume and area are known in closed form, or that are
// hard to follow. Built and run by scripts/step-parts/run; nothing of it is shipped.
#include <BRepAlgoAPI_Common.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_GTransform.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_NurbsConvert.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepLib.hxx>
#include <BRepOffsetAPI_MakePipe.hxx>
#include <BRepOffsetAPI_MakeThickSolid.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <BRep_Builder.hxx>
#include <BRepGProp.hxx>
#include <GC_MakeArcOfCircle.hxx>
#include <GProp_GProps.hxx>
#include <Geom2d_Line.hxx>
#include <GeomAPI_Interpolate.hxx>
#include <GeomAPI_PointsToBSplineSurface.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_BezierCurve.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <Interface_Static.hxx>
#include <Quantity_Color.hxx>
#include <STEPCAFControl_Writer.hxx>
#include <STEPControl_Writer.hxx>
#include <ShapeCustom.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TColgp_Array2OfPnt.hxx>
#include <TColgp_HArray1OfPnt.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <cmath>
#include <string>
#include <vector>
#include <gp.hxx>
#include <gp_Circ.hxx>
#include <gp_GTrsf.hxx>

typedef TopoDS_Shape Shape;

static void unit(const char* unit, const char* schema) {
    // A writer must exist before its settings do.
    { STEPControl_Writer first; }
    Interface_Static::SetCVal("write.step.schema", schema);
    Interface_Static::SetCVal("write.step.unit", unit);
}

static void put(const std::string& name, const Shape& shape, const char* schema = "AP214IS", const char* in = "MM") {
    unit(in, schema);
    STEPControl_Writer writer;
    writer.Transfer(shape, STEPControl_AsIs);
    writer.Write((name + ".step").c_str());
}

static Shape at(const Shape& s, double x, double y, double z) {
    gp_Trsf t;
    t.SetTranslation(gp_Vec(x, y, z));
    return BRepBuilderAPI_Transform(s, t, true).Shape();
}

static Shape turn(const Shape& s, double angle) {
    gp_Trsf t;
    t.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, 2, 0.5)), angle);
    return BRepBuilderAPI_Transform(s, t, true).Shape();
}

static Shape lain(const Shape& s) {
    gp_Trsf t;
    t.SetRotation(gp::OX(), M_PI / 2);
    return BRepBuilderAPI_Transform(s, t, true).Shape();
}

static Shape box(double x, double y, double z) { return BRepPrimAPI_MakeBox(x, y, z).Shape(); }
static Shape drum(double r, double h) { return BRepPrimAPI_MakeCylinder(r, h).Shape(); }
static Shape ball(double r) { return BRepPrimAPI_MakeSphere(r).Shape(); }
static Shape cut(const Shape& a, const Shape& b) { return BRepAlgoAPI_Cut(a, b).Shape(); }
static Shape fuse(const Shape& a, const Shape& b) { return BRepAlgoAPI_Fuse(a, b).Shape(); }

static Handle(Geom_BSplineCurve) through(std::vector<gp_Pnt> p, bool closed = false) {
    Handle(TColgp_HArray1OfPnt) a = new TColgp_HArray1OfPnt(1, p.size());
    for (size_t i = 0; i < p.size(); i++) a->SetValue(i + 1, p[i]);
    GeomAPI_Interpolate g(a, closed, 1e-9);
    g.Perform();
    return g.Curve();
}

static TopoDS_Edge line(gp_Pnt a, gp_Pnt b) { return BRepBuilderAPI_MakeEdge(a, b); }

static Shape turned(std::vector<TopoDS_Edge> edges) {
    BRepBuilderAPI_MakeWire wire;
    for (auto& e : edges) wire.Add(e);
    return BRepPrimAPI_MakeRevol(BRepBuilderAPI_MakeFace(wire.Wire()), gp::OZ()).Shape();
}

static Shape flanged_pipe() {
    Shape flange = drum(25, 8);
    Shape b = cut(fuse(fuse(drum(10, 60), flange), at(flange, 0, 0, 52)), drum(8, 60));
    for (int i = 0; i < 6; i++) b = cut(b, at(drum(3.3, 60), 18 * cos(i * M_PI / 3), 18 * sin(i * M_PI / 3), 0));
    return b;
}

static void assembly() {
    Handle(TDocStd_Document) doc;
    XCAFApp_Application::GetApplication()->NewDocument("BinXCAF", doc);
    Handle(XCAFDoc_ShapeTool) shapes = XCAFDoc_DocumentTool::ShapeTool(doc->Main());
    Handle(XCAFDoc_ColorTool) colours = XCAFDoc_DocumentTool::ColorTool(doc->Main());
    auto part = [&](const Shape& s, const char* name, double r, double g, double b) {
        TDF_Label l = shapes->AddShape(s, false);
        TDataStd_Name::Set(l, name);
        colours->SetColor(l, Quantity_Color(r, g, b, Quantity_TOC_sRGB), XCAFDoc_ColorSurf);
        return l;
    };
    auto place = [&](TDF_Label in, TDF_Label of, double x, double y, double z) {
        gp_Trsf t;
        t.SetTranslation(gp_Vec(x, y, z));
        shapes->AddComponent(in, of, TopLoc_Location(t));
    };
    double inch = 25.4;
    TDF_Label post = part(drum(0.25 * inch, 2 * inch), "Lamp post", 0.2, 0.4, 0.8);
    TDF_Label base = part(cut(box(4 * inch, 3 * inch, 0.5 * inch), at(drum(0.5 * inch, inch), 2 * inch, 1.5 * inch, 0)), "Base plate", 0.7, 0.7, 0.7);
    TDF_Label lid = part(box(4 * inch, 3 * inch, 0.25 * inch), "Lid plate", 0.7, 0.7, 0.7);
    // A housing without its front.
    BRep_Builder B;
    TopoDS_Shell open;
    B.MakeShell(open);
    int n = 0;
    for (TopExp_Explorer e(box(inch, inch, inch), TopAbs_FACE); e.More(); e.Next())
        if (n++ != 1) B.Add(open, TopoDS::Face(e.Current()));
    TDF_Label housing = part(open, "Housing without front", 0.9, 0.5, 0.1);
    TDF_Label knob = part(ball(0.3 * inch), "Knob", 0.1, 0.1, 0.1);
    TDF_Label frame = shapes->NewShape();
    TDataStd_Name::Set(frame, "Frame");
    for (int i = 0; i < 4; i++) place(frame, post, (0.5 + 3 * (i % 2)) * inch, (0.5 + 2 * (i / 2)) * inch, 0.5 * inch);
    place(frame, base, 0, 0, 0);
    TDF_Label lantern = shapes->NewShape();
    TDataStd_Name::Set(lantern, "Mast lantern");
    gp_Trsf t;
    t.SetRotation(gp::OZ(), M_PI / 6);
    t.SetTranslationPart(gp_Vec(10 * inch, 0, 0));
    shapes->AddComponent(lantern, frame, TopLoc_Location(t));
    place(lantern, lid, 0, 0, 2.5 * inch);
    place(lantern, housing, 1.5 * inch, inch, 0.5 * inch);
    place(lantern, knob, 2 * inch, 1.5 * inch, 3.05 * inch);
    shapes->UpdateAssemblies();
    unit("INCH", "AP242DIS");
    STEPCAFControl_Writer writer;
    writer.SetColorMode(true);
    writer.SetNameMode(true);
    writer.Transfer(doc, STEPControl_AsIs);
    writer.Write("mast-lantern.step");
}

int main() {
    Shape block = box(40, 30, 20);
    BRepFilletAPI_MakeFillet rounded(block);
    for (TopExp_Explorer e(block, TopAbs_EDGE); e.More(); e.Next()) rounded.Add(3, TopoDS::Edge(e.Current()));
    put("rounded-block", rounded.Shape());
    put("flanged-pipe", turn(flanged_pipe(), 0.7), "AP203");
    put("flanged-pipe-metre", flanged_pipe(), "AP242DIS", "M");
    put("ball", turn(ball(20), 1.1));
    put("ball-one-hole", cut(ball(20), at(drum(4, 60), 0, 0, -30)));
    Shape drilled = cut(cut(ball(20), at(drum(4, 60), 0, 0, -30)), at(lain(drum(4, 60)), 0, 30, 0));
    put("ball-two-holes", turn(drilled, 0.9));
    put("ball-octant", BRepAlgoAPI_Common(ball(20), box(100, 100, 100)).Shape());
    Shape ring = BRepPrimAPI_MakeTorus(20, 6).Shape();
    put("ring", ring);
    put("ring-half", cut(ring, at(box(100, 100, 100), -50, 0, -50)));
    put("ring-drilled", cut(ring, at(drum(2, 40), 0, 20, -20)));
    put("ring-drilled-at-seam", cut(ring, at(drum(2, 40), 20, 0, -20)));
    // A hole where both seams meet, so that they bound nothing.
    put("ring-bitten-splines", BRepBuilderAPI_NurbsConvert(cut(ring, at(ball(5), 26, 0, 0))).Shape());
    // A ball as a whole circle turned, which is there twice.
    put("ball-as-turned", ShapeCustom::ConvertToRevolution(cut(ball(20), at(drum(4, 60), 5, 7, -30))));
    put("cone", turn(BRepPrimAPI_MakeCone(15, 0, 30).Shape(), 0.5));
    put("cone-half", cut(BRepPrimAPI_MakeCone(15, 0, 30).Shape(), at(box(100, 100, 100), -50, 0, -50)));
    gp_Pnt a(14, 0, 20), b(17, 0, 23), c(14, 0, 26);
    put("knob", turned({line({0, 0, 0}, {8, 0, 0}), line({8, 0, 0}, a), BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(a, b, c).Value()), line(c, {0, 0, 26}), line({0, 0, 26}, {0, 0, 0})}));
    TColgp_Array1OfPnt poles(1, 3);
    poles(1) = gp_Pnt(0, 0, 0), poles(2) = gp_Pnt(10, 0, 0), poles(3) = gp_Pnt(20, 0, 25);
    put("bowl", turned({BRepBuilderAPI_MakeEdge(Handle(Geom_Curve)(new Geom_BezierCurve(poles))), line({20, 0, 25}, {0, 0, 25}), line({0, 0, 25}, {0, 0, 0})}));
    Shape slant = cut(drum(10, 50), turn(at(box(200, 200, 200), -100, -100, 25), 0.5));
    put("drum-slant", slant);
    Shape crossed = cut(drum(10, 50), at(lain(drum(4, 60)), 0, 30, 25));
    put("drum-drilled", crossed);
    put("drum-drilled-splines", BRepBuilderAPI_NurbsConvert(crossed).Shape());
    BRepFilletAPI_MakeFillet soft(crossed);
    for (TopExp_Explorer e(crossed, TopAbs_EDGE); e.More(); e.Next()) soft.Add(1, TopoDS::Edge(e.Current()));
    put("drum-drilled-rounded", soft.Shape());
    Shape vase = turned({BRepBuilderAPI_MakeEdge(through({{10, 0, 0}, {18, 0, 10}, {22, 0, 25}, {20, 0, 40}})), line({20, 0, 40}, {0, 0, 40}), line({0, 0, 40}, {0, 0, 0}), line({0, 0, 0}, {10, 0, 0})});
    TopTools_ListOfShape top;
    for (TopExp_Explorer x(vase, TopAbs_FACE); x.More(); x.Next()) {
        GProp_GProps g;
        BRepGProp::SurfaceProperties(x.Current(), g);
        if (g.CentreOfMass().Z() > 39.9) top.Append(x.Current());
    }
    BRepOffsetAPI_MakeThickSolid hollow;
    hollow.MakeThickSolidByJoin(vase, top, -1.5, 1e-4);
    put("vase-hollow", hollow.Shape());
    gp_GTrsf g;
    g.SetValue(1, 1, 1.5), g.SetValue(3, 3, 0.6);
    Shape egg = BRepBuilderAPI_GTransform(ball(20), g, true).Shape();
    put("egg", egg);
    put("egg-bitten", cut(egg, at(drum(5, 40), 10, 5, -20)));
    auto loop = through({{0, -12, 0}, {14, -4, 0}, {6, 12, 0}, {-9, 8, 0}, {-12, -6, 0}}, true);
    put("extruded-loop", BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(loop)).Wire()), gp_Vec(3, 2, 25)).Shape());
    Handle(Geom_CylindricalSurface) about = new Geom_CylindricalSurface(gp_Ax3(), 10);
    double once = sqrt(4 * M_PI * M_PI + 64);
    TopoDS_Edge helix = BRepBuilderAPI_MakeEdge(Handle(Geom2d_Curve)(new Geom2d_Line(gp_Pnt2d(0, 0), gp_Dir2d(2 * M_PI, 8))), about, 0, once * 3);
    BRepLib::BuildCurves3d(helix);
    TopoDS_Wire round = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(10, 0, 0), gp_Dir(0, 2 * M_PI * 10, 8)), 1.5)));
    BRepOffsetAPI_MakePipe spring(BRepBuilderAPI_MakeWire(helix).Wire(), BRepBuilderAPI_MakeFace(round));
    put("spring", spring.Shape());
    TColgp_Array2OfPnt waves(1, 6, 1, 6);
    for (int i = 1; i <= 6; i++)
        for (int j = 1; j <= 6; j++) waves.SetValue(i, j, gp_Pnt(i * 10, j * 10, 4 * sin(i * 0.9) * cos(j * 0.8)));
    TopoDS_Face wavy = BRepBuilderAPI_MakeFace(Handle(Geom_Surface)(GeomAPI_PointsToBSplineSurface(waves).Surface()), 1e-6);
    put("wavy-block", BRepPrimAPI_MakePrism(wavy, gp_Vec(0, 0, 12)).Shape());
    put("wavy-sheet-holed", cut(wavy, at(drum(8, 60), 32, 35, -30)));
    put("block-with-void", cut(block, at(ball(7), 20, 15, 10)));
    BRep_Builder B;
    TopoDS_Shell open;
    B.MakeShell(open);
    int n = 0;
    for (TopExp_Explorer e(block, TopAbs_FACE); e.More(); e.Next())
        if (n++ != 2) B.Add(open, TopoDS::Face(e.Current()));
    TopoDS_Compound mixed;
    B.MakeCompound(mixed);
    B.Add(mixed, block);
    B.Add(mixed, at(ball(20), 100, 0, 0));
    B.Add(mixed, at(open, 0, 100, 0));
    B.Add(mixed, BRepBuilderAPI_MakeEdge(through({{0, 0, 50}, {20, 10, 60}, {40, 0, 50}})));
    put("mixed", mixed);
    assembly();
}
