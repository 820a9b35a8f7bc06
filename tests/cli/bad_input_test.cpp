// Bad input of every kind: exit code 2, one line that says where, what and what is allowed, no output left.
#include <gtest/gtest.h>

#include <algorithm>
#include <set>
#include <sstream>

#include "../support/program.hpp"

namespace jugend::testing {
namespace {

namespace fs = std::filesystem;

struct Bad {
  const char* name;
  const char* file;   ///< which file is spoilt; empty: the arguments are
  const char* text;   ///< what stands in it instead (binary meshes are made below)
  const char* where;  ///< expected in the message: file:line:column, or the option
  const char* about;  ///< and the key, or what was found
  const char* hint;   ///< and what is allowed, or the nearest name
  const char* arguments = "run trial.toml";
};

#define TRIAL "level = \"floor.level.toml\"\nduration_s = 3\n"
#define ACTOR "[[actor]]\nname = \"courier\"\nstart = [0, 0, 0]\n"
#define BODY "[[body]]\nname = \"floor\"\nshape = \"box\"\nsize = [9, 1, 9]\n"
#define MESH "[[body]]\nshape = \"mesh\"\nfile = "

const Bad table[] = {
    // Trials
    {"TrialMissing", "", "", "nowhere.toml", "no file", "TOML", "run nowhere.toml"},
    {"TrialIsNoToml", "trial.toml", "level = = 3\n", "trial.toml:1:9", "syntax", "TOML"},
    {"TrialCutShort", "trial.toml", "level = \"floor.le", "trial.toml:1:", "syntax", "TOML"},
    {"TrialNotUtf8", "trial.toml", "title = \"\xff\xfe\"\n", "trial.toml:1:", "syntax", "TOML"},
    {"TrialEmpty", "trial.toml", "", "trial.toml:1:1", "duration_s", "a time"},
    {"LevelMissing", "trial.toml", "duration_s = 3\n" ACTOR, "trial.toml:1:1", "level", "a level file"},
    {"LevelNoFile", "trial.toml", "duration_s = 3\nlevel = \"flor.level.toml\"\n" ACTOR, "trial.toml:2:1",
     "flor.level.toml", "a level file"},
    {"LevelWrongType", "trial.toml", "duration_s = 3\nlevel = 7\n" ACTOR, "trial.toml:2:1", "level", "text"},
    {"KeyMisspelt", "trial.toml", TRIAL "durration = 4\n" ACTOR, "trial.toml:3:1", "durration", "nearest: duration_s"},
    {"KeyUnknown", "trial.toml", TRIAL "qwerty = 4\n" ACTOR, "trial.toml:3:1", "qwerty", "allowed: title"},
    {"KeyTwice", "trial.toml", TRIAL "hz = 60\nhz = 30\n" ACTOR, "trial.toml:4:", "syntax", "TOML"},
    {"DurationNegative", "trial.toml", "level = \"floor.level.toml\"\nduration_s = -1\n" ACTOR, "trial.toml:2:1", "-1",
     "0.001 to 3600"},
    {"DurationNan", "trial.toml", "level = \"floor.level.toml\"\nduration_s = nan\n" ACTOR, "trial.toml:2:1", "nan",
     "0.001 to 3600"},
    {"DurationText", "trial.toml", "level = \"floor.level.toml\"\nduration_s = \"3\"\n" ACTOR, "trial.toml:2:1", "'3'",
     "a number"},
    {"RateAbsurd", "trial.toml", TRIAL "hz = 1e9\n" ACTOR, "trial.toml:3:1", "hz", "1 to 10000"},
    {"RateZero", "trial.toml", TRIAL "hz = 0\n" ACTOR, "trial.toml:3:1", "found 0", "1 to 10000"},
    {"TooManyTicks", "trial.toml", "level = \"floor.level.toml\"\nduration_s = 3600\nhz = 9999\n" ACTOR,
     "trial.toml:2:1", "ticks", "at most"},
    {"NoActor", "trial.toml", TRIAL, "trial.toml:1:1", "actor", "one [[actor]] at least"},
    {"ActorNoName", "trial.toml", TRIAL "[[actor]]\nstart = [0, 0, 0]\n", "trial.toml:3:1", "actor[0].name", "a text"},
    {"ActorNameTwice", "trial.toml", TRIAL ACTOR ACTOR, "trial.toml:7:1", "'courier' a second time", "each name once"},
    {"ActorNameWithDot", "trial.toml", TRIAL "[[actor]]\nname = \"a.b\"\nstart = [0, 0, 0]\n", "trial.toml:4:1",
     "'a.b'", "without"},
    {"ActorKind", "trial.toml", TRIAL "[[actor]]\nname = \"a\"\nkind = \"wlaker\"\nstart = [0, 0, 0]\n",
     "trial.toml:5:1", "'wlaker'", "nearest: walker"},
    {"ActorKey", "trial.toml", TRIAL ACTOR "body = 3\n", "trial.toml:6:1", "actor[0].body", "start, velocity"},
    {"RollerNoBody", "trial.toml", TRIAL "[[actor]]\nname = \"a\"\nkind = \"roller\"\n", "trial.toml:3:1",
     "actor[0].body", "the name of the ball"},
    {"RollerOnAFloor", "trial.toml", TRIAL "[[actor]]\nname = \"a\"\nkind = \"roller\"\nbody = \"floor\"\n",
     "trial.toml:6:1", "'floor', which is no dynamic sphere", "a dynamic sphere"},
    {"CueKey", "trial.toml", TRIAL ACTOR "[[cue]]\nat_s = 1\npress = \"dsah\"\n", "trial.toml:8:1", "'dsah'",
     "nearest: dash"},
    {"CueHitNowhere", "trial.toml", TRIAL ACTOR "[[cue]]\nat_s = 1\nhit = { distance = 2 }\n", "trial.toml:8:1",
     "hit.away", "the direction of the throw"},
    {"CueHitTwice", "trial.toml",
     TRIAL ACTOR "[[cue]]\nat_s = 1\nhit = { away = [1, 0, 0], distance = 2, impulse = 9 }\n",
     "trial.toml:8:", "hit.impulse", "one of the two"},
    {"PathOfOnePoint", "floor.level.toml", BODY "kind = \"kinematic\"\npath = { points = [[0, 0, 0]] }\n",
     "floor.level.toml:6:", "1 points", "2 points or more"},
    {"PathOfAFloor", "floor.level.toml", BODY "path = { points = [[0, 0, 0], [1, 0, 0]] }\n", "floor.level.toml:5:1",
     "path", "kind = \"kinematic\""},
    {"PathEase", "floor.level.toml",
     BODY "kind = \"kinematic\"\npath = { points = [[0, 0, 0], [1, 0, 0]], ease = 3 }\n",
     "floor.level.toml:6:", "path.ease", "0 to 1"},
    {"PathSpeedAndTime", "floor.level.toml",
     BODY "kind = \"kinematic\"\npath = { points = [[0, 0, 0], [1, 0, 0]], speed = 1, duration_s = 2 }\n",
     "floor.level.toml:6:", "path.speed", "one of the two"},
    {"PoolFlat", "floor.level.toml", BODY "[[pool]]\nsize = [3, 0, 3]\n", "floor.level.toml:6:1", "pool[0].size", "m"},
    {"LedgeReachOfZero", "trial.toml", TRIAL ACTOR "[actor.set]\n\"ledge.reach\" = 0\n", "trial.toml:7:1",
     "ledge.reach", "0.01 to 10"},
    {"DashWithoutTime", "trial.toml", TRIAL ACTOR "[actor.set]\n\"dash.time\" = 0\n", "trial.toml:7:1", "dash.time",
     "0.01 to 60"},
    {"BufferNegative", "trial.toml", TRIAL ACTOR "[actor.set]\n\"jump.buffer\" = -1\n", "trial.toml:7:1", "jump.buffer",
     "0 to 10"},
    {"ActorNoStart", "trial.toml", TRIAL "[[actor]]\nname = \"a\"\n", "trial.toml:3:1", "start", "three lengths"},
    {"ActorStartShort", "trial.toml", TRIAL "[[actor]]\nname = \"a\"\nstart = [0, 1]\n", "trial.toml:5:1",
     "a list of 2", "3 numbers"},
    {"ActorStartNan", "trial.toml", TRIAL "[[actor]]\nname = \"a\"\nstart = [0, nan, 0]\n", "trial.toml:5:1", "nan",
     "m"},
    {"ActorStartNoMarker", "trial.toml", TRIAL "[[actor]]\nname = \"a\"\nstart = \"gate\"\n", "trial.toml:5:1",
     "'gate'", "no markers"},
    {"ActorIsATable", "trial.toml", TRIAL "[actor]\nname = \"a\"\n", "trial.toml:3:", "a table", "[[heading]]"},
    {"TuningNoFile", "trial.toml", TRIAL "[[actor]]\nname = \"a\"\nstart = [0,0,0]\ntuning = \"x.toml\"\n",
     "trial.toml:6:1", "'x.toml'", "a tuning file"},
    {"SetUnknown", "trial.toml", TRIAL ACTOR "[actor.set]\n\"jump.heigth\" = 2\n", "trial.toml:7:1", "jump.heigth",
     "nearest: jump.height"},
    {"SetOutOfRange", "trial.toml", TRIAL ACTOR "[actor.set]\n\"jump.height\" = -2\n", "trial.toml:7:1", "-2",
     "0.01 to 1000 m"},
    {"CueAfterTheEnd", "trial.toml", TRIAL ACTOR "[[cue]]\nat_s = 3.5\nrun = [1, 0]\n", "trial.toml:7:1", "3.5 s",
     "duration_s, 3"},
    {"CueNegative", "trial.toml", TRIAL ACTOR "[[cue]]\nat_s = -0.5\nrun = [1, 0]\n", "trial.toml:7:1", "-0.5",
     "0 to 3600"},
    {"CueRunTooFar", "trial.toml", TRIAL ACTOR "[[cue]]\nat_s = 1\nrun = [2, 0]\n", "trial.toml:8:1", "found 2",
     "-1 to 1"},
    {"CuePressUnknown", "trial.toml", TRIAL ACTOR "[[cue]]\nat_s = 1\npress = \"jmp\"\n", "trial.toml:8:1", "'jmp'",
     "nearest: jump"},
    {"CueHoldAlone", "trial.toml", TRIAL ACTOR "[[cue]]\nat_s = 1\nrun = [1, 0]\nhold_s = 1\n", "trial.toml:9:1",
     "hold_s", "press"},
    {"CueDoesNothing", "trial.toml", TRIAL ACTOR "[[cue]]\nat_s = 1\n", "trial.toml:7:1", "does nothing",
     "one of run, press, aim, hit"},
    {"CueActorUnknown", "trial.toml", TRIAL ACTOR "[[cue]]\nat_s = 1\nactor = \"couriir\"\nrun = [1, 0]\n",
     "trial.toml:8:1", "'couriir'", "nearest: courier"},
    // Tunings
    {"TuningMisspelt", "courier.toml", "[jump]\nheigth = 1\n", "courier.toml:2:1", "jump.heigth",
     "nearest: jump.height"},
    {"TuningWrongType", "courier.toml", "[run]\ntop_speed = \"fast\"\n", "courier.toml:2:1", "'fast'",
     "a number, 0.01 to 1000 m/s"},
    {"TuningGroupIsANumber", "courier.toml", "run = 4\n", "courier.toml:1:1", "run", "a table"},
    {"TuningNegative", "courier.toml", "[jump]\ntime_to_apex = -0.4\n", "courier.toml:2:1", "jump.time_to_apex",
     "0.02 to 20 s"},
    {"TuningInfinite", "courier.toml", "[run]\ntop_speed = inf\n", "courier.toml:2:1", "inf", "0.01 to 1000"},
    {"TuningDoesNotFit", "courier.toml", "[body]\nradius = 0.5\nheight = 0.8\n", "courier.toml:3:1", "body.height",
     "at least twice body.radius"},
    {"TuningStepTooHigh", "courier.toml", "[ground]\nstep_height = 1.6\n", "courier.toml:2:1", "ground.step_height",
     "at most"},
    {"TuningKind", "courier.toml", "kind = \"boat\"\n", "courier.toml:1:1", "'boat'", "walker"},
    // Levels
    {"LevelWithoutBodies", "floor.level.toml", "gravity = [0, -9, 0]\n", "floor.level.toml:1:1", "body",
     "one [[body]] at least"},
    {"BodyWithoutShape", "floor.level.toml", "[[body]]\nname = \"floor\"\n", "floor.level.toml:1:1", "body[0].shape",
     "box, sphere"},
    {"BodyShapeUnknown", "floor.level.toml", "[[body]]\nshape = \"bxo\"\n", "floor.level.toml:2:1", "'bxo'",
     "nearest: box"},
    {"BodySizeNegative", "floor.level.toml", "[[body]]\nshape = \"box\"\nsize = [1, -2, 1]\n", "floor.level.toml:3:1",
     "-2", "m"},
    {"BodyRadiusZero", "floor.level.toml", "[[body]]\nshape = \"sphere\"\nradius = 0\n", "floor.level.toml:3:1",
     "found 0", "m"},
    {"BodyNameTwice", "floor.level.toml", BODY BODY, "floor.level.toml:6:1", "'floor' a second time", "each name once"},
    {"BodySurfaceUnknown", "floor.level.toml", "[[surface]]\nname = \"planks\"\n" BODY "surface = \"plank\"\n",
     "floor.level.toml:7:1", "'plank'", "nearest: planks"},
    {"SurfaceNameTwice", "floor.level.toml", "[[surface]]\nname = \"a\"\n[[surface]]\nname = \"a\"\n" BODY,
     "floor.level.toml:4:1", "'a' a second time", "each name once"},
    {"SurfaceFrictionNegative", "floor.level.toml", "[[surface]]\nname = \"a\"\nfriction = -1\n" BODY,
     "floor.level.toml:3:1", "-1", "0 to 100"},
    {"StaticBodyMoves", "floor.level.toml", BODY "velocity = [1, 0, 0]\n", "floor.level.toml:5:1", "velocity",
     "kinematic"},
    {"MeshNoFile", "floor.level.toml", MESH "\"no.glb\"\n", "floor.level.toml:3:1", "no file", ".glb"},
    {"MeshOtherFormat", "floor.level.toml", MESH "\"trial.toml\"\n", "floor.level.toml:3:1", "'.toml'", ".obj"},
    {"MeshTruncated", "floor.level.toml", MESH "\"cut.glb\"\n", "floor.level.toml:3:1", "cut.glb", "glTF"},
    {"MeshGarbage", "floor.level.toml", MESH "\"garbage.glb\"\n", "floor.level.toml:3:1", "garbage.glb", "glTF"},
    {"MeshIndexOutOfRange", "floor.level.toml", MESH "\"range.gltf\"\n", "floor.level.toml:3:1", "vertex 9", "0 to 2"},
    {"MeshAccessorBeyondBuffer", "floor.level.toml", MESH "\"beyond.gltf\"\n", "floor.level.toml:3:1", "beyond",
     "inside the buffer"},
    {"MeshNodeCycle", "floor.level.toml", MESH "\"cycle.gltf\"\n", "floor.level.toml:3:1", "node 0", "a tree of nodes"},
    {"MeshNodeIndex", "floor.level.toml", MESH "\"node.gltf\"\n", "floor.level.toml:3:1", "index 7", "0 to"},
    {"MeshNan", "floor.level.toml", MESH "\"nan.gltf\"\n", "floor.level.toml:3:1", "not finite", "finite"},
    {"MeshBufferElsewhere", "floor.level.toml", MESH "\"elsewhere.gltf\"\n", "floor.level.toml:3:1", "elsewhere.gltf",
     ""},
    {"ObjIndexOutOfRange", "floor.level.toml", MESH "\"range.obj\"\n", "floor.level.toml:3:1", "range.obj", ""},
    {"ObjEmpty", "floor.level.toml", MESH "\"empty.obj\"\n", "floor.level.toml:3:1", "no triangles",
     "one triangle or more"},
    {"TilesUnknownCharacter", "floor.level.toml", "[[body]]\nshape = \"tiles\"\nfile = \"bad.map\"\n", "bad.map:2:3",
     "'?'", "#"},
    {"HeightsRagged", "floor.level.toml", "[[body]]\nshape = \"heights\"\nfile = \"ragged.csv\"\ncell = 1\n",
     "ragged.csv:2:1", "2 numbers", "3, as in the rows above"},
    {"HeightsText", "floor.level.toml", "[[body]]\nshape = \"heights\"\nfile = \"text.csv\"\ncell = 1\n",
     "text.csv:2:3", "'high", "a number"},
    // Options
    {"UnknownOption", "", "", "jugend", "--sett", "nearest: --set", "run trial.toml --sett a=1"},
    {"SetWithoutValue", "", "", "--set jump.height", "no key=value", "key=value", "run trial.toml --set jump.height"},
    {"SetNotANumber", "", "", "--set jump.height=tall", "'tall'", "a number", "run trial.toml --set jump.height=tall"},
    {"SetMisspelt", "", "", "--set jump.hieght=1", "jump.hieght", "nearest: jump.height",
     "run trial.toml --set jump.hieght=1"},
    {"SetNan", "", "", "--set jump.height=nan", "nan", "0.01 to 1000 m", "run trial.toml --set jump.height=nan"},
    {"SetCutsACue", "", "", "--set duration_s=1", "duration_s", "2.5", "run trial.toml --set duration_s=1"},
    {"HzAbsurd", "", "", "hz", "1e+300", "1 to 10000", "run trial.toml --hz 1e300"},
    {"PlotOtherEnding", "", "", "p.bmp", "'.bmp'", ".png or .svg", "plot trial.toml --out p.bmp"},
    {"PlotOfNoRun", "", "", "empty", "no summary.json", "jugend run", "plot empty"},
    {"CompareOfOne", "", "", "compare", "one run alone", "--set", "compare trial.toml"},
    {"ParamsKind", "", "", "params", "'walkre'", "nearest: walker", "params walkre"},
    {"SizeNegative", "", "", "height", "-1", "more than 0", "size jump --height -1 --time 1"},
    {"SizeTooHigh", "", "", "--rise", "3", "at most", "size reach --height 1 --time 0.4 --rise 3"},
    {"OutIsAFile", "", "", "courier.toml", "not a run", "a new folder", "run trial.toml --out courier.toml"},
};

/// A glTF of one triangle with its buffer inside; parts of it can be replaced.
std::string gltf(const std::string& indices, const std::string& nodes = "[{\"mesh\":0}]",
                 const std::string& roots = "[0]", const std::string& count = "3",
                 const std::string& buffer = "AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAAAAAAIA/") {
  return "{\"asset\":{\"version\":\"2.0\"},\"scene\":0,\"scenes\":[{\"nodes\":" + roots + "}],\"nodes\":" + nodes +
         ",\"meshes\":[{\"primitives\":[{\"attributes\":{\"POSITION\":0},\"indices\":1}]}],"
         "\"buffers\":[{\"byteLength\":36,\"uri\":\"data:application/octet-stream;base64," +
         buffer + "\"},{\"byteLength\":3,\"uri\":\"data:application/octet-stream;base64," + indices +
         "\"}],"
         "\"bufferViews\":[{\"buffer\":0,\"byteLength\":36},{\"buffer\":1,\"byteLength\":3}],"
         "\"accessors\":[{\"bufferView\":0,\"componentType\":5126,\"count\":" +
         count + ",\"type\":\"VEC3\"},{\"bufferView\":1,\"componentType\":5121,\"count\":3,\"type\":\"SCALAR\"}]}";
}

void write_spoilt_files(const Folder& folder) {
  const std::string quay = slurp(JUGEND_SOURCE "/demo/quay.glb");
  folder.write("cut.glb", quay.substr(0, quay.size() / 2));
  folder.write("garbage.glb", std::string(400, '\x7f'));
  folder.write("range.gltf", gltf("AAEJ"));
  folder.write("beyond.gltf", gltf("AAEC", "[{\"mesh\":0}]", "[0]", "4000000000"));
  folder.write("cycle.gltf", gltf("AAEC", "[{\"mesh\":0,\"children\":[1]},{\"children\":[0]}]"));
  folder.write("node.gltf", gltf("AAEC", "[{\"mesh\":0,\"children\":[7]}]"));
  folder.write("nan.gltf",
               gltf("AAEC", "[{\"mesh\":0}]", "[0]", "3", "AADAfwAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAAAAAAIA/"));
  std::string elsewhere = gltf("AAEC");
  elsewhere.replace(elsewhere.find("data:application"),
                    elsewhere.find("\"},{\"byteLength\":3") - elsewhere.find("data:application"), "../trial.toml");
  folder.write("elsewhere.gltf", elsewhere);
  folder.write("range.obj", "v 0 0 0\nv 1 0 0\nv 0 0 1\nf 1 2 12\n");
  folder.write("empty.obj", "v 0 0 0\n");
  folder.write("bad.map", "....\n##?#\n");
  folder.write("ragged.csv", "0 0 0\n1 1\n");
  folder.write("text.csv", "0 0 0\n0 high 0\n");
  fs::create_directory(folder / "empty");
}

std::vector<std::string> listing(const Folder& folder) {
  std::vector<std::string> all;
  for (const auto& entry : fs::recursive_directory_iterator(folder.path())) all.push_back(entry.path().string());
  std::sort(all.begin(), all.end());
  return all;
}

class BadInput : public ::testing::TestWithParam<Bad> {};
void PrintTo(const Bad& bad, std::ostream* out) { *out << bad.name; }
INSTANTIATE_TEST_SUITE_P(Table, BadInput, ::testing::ValuesIn(table),
                         [](const auto& tested) { return std::string(tested.param.name); });

TEST_P(BadInput, IsRefusedInOneLineAndLeavesNothing) {
  const Bad& bad = GetParam();
  Folder folder;
  write_trial(folder);
  write_spoilt_files(folder);
  if (*bad.file) folder.write(bad.file, bad.text);
  const auto before = listing(folder);
  const Answer answer = jugend(folder, bad.arguments);
  EXPECT_EQ(answer.code, 2) << answer.out << answer.err;
  const bool of_options = std::string(bad.where) == "jugend";
  EXPECT_EQ(std::count(answer.err.begin(), answer.err.end(), '\n'), of_options ? 2 : 1) << answer.err;
  for (const char* part : {bad.where, bad.about, bad.hint})
    EXPECT_NE(answer.err.find(part), std::string::npos) << part << " is not in: " << answer.err;
  std::istringstream allowed(answer.err.substr(std::min(answer.err.find("allowed: "), answer.err.size())));
  std::set<std::string> told;
  for (std::string word; allowed >> word && word != "nearest:";)
    EXPECT_TRUE(word.back() != ',' || told.insert(word).second) << word << " twice: " << answer.err;
  EXPECT_EQ(answer.out, "");
  EXPECT_EQ(listing(folder), before);
}

}  // namespace
}  // namespace jugend::testing
