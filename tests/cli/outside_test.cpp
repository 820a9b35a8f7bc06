// What comes from outside and means no good: files without end, depths, folders and names that leave theirs, run
// folders that do not belong together, disks that are full, runs that are killed.
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdint>
#include <vector>

#include "../support/any_value.hpp"
#include "../support/program.hpp"
#include "../support/random.hpp"

namespace jugend::testing {
namespace {

namespace fs = std::filesystem;

std::string repeated(const std::string& text, int times) {
  std::string all;
  for (int i = 0; i < times; ++i) all += text;
  return all;
}

/// Exit code 2, one line with both, and nothing left behind.
void expect_refused(const Folder& folder, const std::string& arguments, const std::string& where,
                    const std::string& about) {
  const Answer answer = jugend(folder, arguments);
  EXPECT_EQ(answer.code, 2) << arguments << answer.err;
  EXPECT_NE(answer.err.find(where), std::string::npos) << answer.err;
  EXPECT_NE(answer.err.find(about), std::string::npos) << answer.err;
  EXPECT_EQ(std::ranges::count(answer.err, '\n'), 1) << answer.err;
  EXPECT_FALSE(fs::exists(folder / "runs")) << arguments;
}

TEST(Outside, DepthIsRefusedBeforeAnythingCallsItself) {
  const Folder folder;
  write_trial(folder);
  const std::pair<std::string, const char*> deep[] = {{repeated("a.", 20000) + "a = 1\n", "dotted key"},
                                                      {"x = {" + repeated("a.", 20000) + "a = 1}\n", "dotted key"},
                                                      {"x = " + repeated("[", 5000) + repeated("]", 5000), "brackets"},
                                                      {"[" + repeated("a.", 5000) + "a]\n", "dotted key"}};
  for (const auto& [text, about] : deep) {
    folder.write("trial.toml", "title = \"a.b\"  # " + repeated(".", 99) + "\n" + text);
    expect_refused(folder, "run trial.toml", "trial.toml:2:", about);
  }
  write_trial(folder);
  expect_refused(folder, "run trial.toml --set 'jump.height={" + repeated("a.", 900) + "a=1}'", "--set", "dotted key");
  folder.write("trial.toml",
               "title = \"" + repeated(".[", 999) + "\"\nlevel = 1\nduration_s = 1\n");  // a text may have them
  expect_refused(folder, "run trial.toml", "trial.toml:2:1", "level");
}

/// A trial on a mesh.
void use_mesh(const Folder& folder, const std::string& file) {
  folder.write("floor.level.toml", "[[body]]\nname = \"floor\"\nshape = \"mesh\"\nfile = \"" + file + "\"\n");
}

TEST(Outside, MeshesStayInTheirFolderAndTheirBudgets) {
  const Folder folder;
  write_trial(folder);
  const std::string triangle = "v 0 0 0\nv 0 0 90\nv 90 0 0\nf 1 2 3\n";
  use_mesh(folder, "a.obj");
  for (const char* there : {"/dev/zero", "../a.mtl", "/etc/passwd", "b/../../a.mtl"}) {
    folder.write("a.obj", std::string("mtllib ") + there + "\n" + triangle);
    expect_refused(folder, "run trial.toml", "a.obj: mtllib", "folder");
  }
  fs::create_symlink("/etc/passwd", folder / "linked.mtl");
  folder.write("a.obj", "mtllib linked.mtl\n" + triangle);
  expect_refused(folder, "run trial.toml", "a.obj: mtllib", "folder");
  std::string corners;
  for (int i = 1; i <= 30000; ++i) corners += " 1";
  folder.write("a.obj", triangle + "f" + corners + "\n");
  expect_refused(folder, "run trial.toml", "a.obj:5: f", "corners");
  for (const char* far : {"1e20", "-1e8", "1e300", "nan", "inf"}) {
    folder.write("a.obj", "v 0 0 0\nv 0 0 90\nv 90 0 " + std::string(far) + "\nf 1 2 3\n");
    expect_refused(folder, "run trial.toml", "a.obj", "found");
  }
  const auto gltf = [&](const std::string& buffer, const std::string& more) {
    folder.write("m.gltf", R"({"asset":{"version":"2.0"},"buffers":[)" + buffer +
                               R"(],"bufferViews":[{"buffer":0,"byteLength":36}],)"
                               R"("accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3"}],)"
                               R"("meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],"nodes":[{"mesh":0}],)"
                               R"("scenes":[{"nodes":[0]}])" +
                               more + "}");
  };
  use_mesh(folder, "m.gltf");
  fs::create_directory(folder / "folder");
  folder.write("b.bin", std::string(36, '\0'));
  for (const char* uri : {"../b.bin", "/etc/passwd", "folder/../../b.bin", "linked.mtl", "%2e%2e/b.bin"}) {
    gltf(R"({"uri":")" + std::string(uri) + R"(","byteLength":36})", "");
    expect_refused(folder, "run trial.toml", "m.gltf", "");
  }
  gltf(R"({"uri":"folder","byteLength":36})", "");
  expect_refused(folder, "run trial.toml", "file", "a folder");
  gltf(R"({"uri":"b.bin","byteLength":0})", "");
  expect_refused(folder, "run trial.toml", "m.gltf", "");
  gltf(R"({"uri":"b.bin","byteLength":36})", ",\"extras\":" + repeated("[", 200000) + repeated("]", 200000));
  expect_refused(folder, "run trial.toml", "m.gltf:1: syntax", "deep");
}

TEST(Outside, BodiesAndTicksAreCountedBeforeTheyAreMade) {
  const Folder folder;
  write_trial(folder);
  std::string level = "[[body]]\nname = \"a\"\nshape = \"box\"\nsize = [1, 1, 1]\nkind = \"dynamic\"\nmass = 1\n";
  for (int i = 0; i < 3; ++i)
    level += "[[stack]]\nname = \"s" + std::to_string(i) + "\"\nsize = [1, 1, 1]\ncount = 200\npattern = \"pyramid\"\n";
  folder.write("floor.level.toml", level);
  expect_refused(folder, "run trial.toml", "stack[2].count", "60301 bodies");
  std::string of = "\"a\"";
  for (int i = 0; i < 3000; ++i) of += ", \"a\"";
  folder.write("floor.level.toml", level.substr(0, level.find("[[stack]]")) + "[[copies]]\nof = [" + of +
                                       "]\ncount = 1000\nstep = [1, 0, 0]\n");
  expect_refused(folder, "run trial.toml", "copies[0].of", "'a' a second time");
  write_trial(folder);
  expect_refused(folder, "run trial.toml --most-bodies 0", "floor.level.toml:3:1", "--most-bodies");
  expect_refused(folder, "run trial.toml --set hz=10000 --set duration_s=900 --most-mb 10", "trial.toml", "--most-mb");
}

/// A road of 37 km took nine seconds to be refused for a wrong key, and nothing bounded how many of them there were.
TEST(Outside, RoadsAreCountedBeforeTheyAreMade) {
  const Folder folder;
  write_trial(folder);
  const std::string road = "[[body]]\nshape = \"road\"\nlength = ";
  folder.write("floor.level.toml", road + "36920\nroug = 1\n");
  expect_refused(folder, "run trial.toml", "floor.level.toml:4:1: body[0].roug", "roughness");
  folder.write("floor.level.toml", road + "36920\n");
  expect_refused(folder, "run trial.toml", "floor.level.toml:2:1: body[0].shape", "369201 heights");
  std::string many;
  for (int seed = 1; seed < 40; ++seed) many += road + "1000\nseed = " + std::to_string(seed) + "\n";
  folder.write("floor.level.toml", many);
  expect_refused(folder, "run trial.toml", "body[19].shape", "200020 heights");
}

TEST(Outside, NamesAreNoTricks) {
  const Folder folder;
  write_trial(folder);
  const std::string long_name(300, 'n');
  expect_refused(folder, "run " + long_name + ".toml", "no file", "TOML");
  fs::create_symlink("loop", folder / "loop");
  expect_refused(folder, "run loop", "loop", "no file");
  expect_refused(folder, "plot loop", "loop", "no file");
  fs::create_directory(folder / "folder");
  expect_refused(folder, "run folder", "folder", "a folder");
  for (const char* key : {"level", "tuning"}) {
    folder.write("trial.toml",
                 "duration_s = 1\nlevel = \"floor.level.toml\"\n[[actor]]\nname = \"a\"\nstart = [0, 0, 0]\n");
    if (std::string(key) == "level")
      folder.write("trial.toml", "duration_s = 1\nlevel = \"" + long_name + "\"\n");
    else
      folder.write("trial.toml", slurp(folder / "trial.toml") + "tuning = \"" + long_name + "\"\n");
    expect_refused(folder, "run trial.toml", "trial.toml:", key);
  }
  write_trial(folder);
  folder.write(
      "floor.level.toml",
      "[[body]]\nname = \"fl\\u001b[31moor\"\nshape = \"box\"\nsize = [100, 1, 8]\nposition = [40, -0.5, 0]\n");
  expect_refused(folder, "run trial.toml", "floor.level.toml:2:1", "control characters");
  write_trial(folder);
  const Answer answer = jugend(folder, "run trial.toml --set $'jump.height=\\e[31m'");
  EXPECT_EQ(answer.err.find('\x1b'), std::string::npos);
}

TEST(Outside, JointsAreRefusedAtTheirLine) {
  const Folder folder;
  write_trial(folder);
  const std::string body = "[[body]]\nname = \"a\"\nshape = \"box\"\nsize = [1, 1, 1]\nkind = \"dynamic\"\nmass = 1\n";
  for (const char* wrong : {"axis = [0, 0, 0]\n", "low_deg = 9\nhigh_deg = 3\n", "b = \"a\"\n"}) {
    folder.write("floor.level.toml", body + "[[joint]]\nkind = \"hinge\"\na = \"a\"\nat = [0, 0, 0]\n" + wrong);
    expect_refused(folder, "run trial.toml", "floor.level.toml:8:1", "joint[0].");
  }
}

TEST(Outside, WhatGoesWildIsTold) {
  const Folder folder;
  write_trial(folder);
  folder.write(
      "floor.level.toml",
      "[[body]]\nname = \"floor\"\nshape = \"box\"\nsize = [9, 1, 8]\nposition = [0, -0.5, 0]\n"
      "[[body]]\nname = \"crate\"\nshape = \"box\"\nsize = [1, 1, 1]\nposition = [50, 5, 0]\nkind = \"dynamic\"\n"
      "mass = 5\n");
  folder.write("trial.toml", "level = \"floor.level.toml\"\nduration_s = 30\n");
  const Answer falls = jugend(folder, "run trial.toml");
  EXPECT_EQ(falls.code, 0);
  EXPECT_NE(falls.out.find("'crate' has left the level"), std::string::npos) << falls.out;
}

/// Each way in which a run folder can be not what a run wrote.
TEST(RunFolder, IsReadAsStrictlyAsATrial) {
  const Folder folder;
  write_trial(folder);
  ASSERT_EQ(jugend(folder, "run trial.toml --out whole").code, 0);
  const std::string trace = slurp(folder / "whole/trace.csv"), summary = slurp(folder / "whole/summary.json");
  fs::create_directory(folder / "spoilt");
  const auto expect = [&](const std::string& csv, const std::string& json, const std::string& about) {
    folder.write("spoilt/trace.csv", csv), folder.write("spoilt/summary.json", json);
    for (const char* command : {"plot spoilt --out p.png", "compare spoilt spoilt --out c"}) {
      const Answer answer = jugend(folder, command);
      EXPECT_EQ(answer.code, 2) << about << answer.out;
      EXPECT_NE(answer.err.find(about), std::string::npos) << answer.err;
      EXPECT_FALSE(fs::exists(folder / "p.png") || fs::exists(folder / "c"));
    }
  };
  const auto with = [](std::string text, const std::string& from, const std::string& to) {
    const auto at = text.find(from);
    EXPECT_NE(at, std::string::npos) << from;
    return text.replace(at, from.size(), to);
  };
  const std::size_t second = trace.find('\n') + 1, third = trace.find('\n', second) + 1;
  const auto spoil_cell = [&](const std::string& cell) {
    std::string row = trace.substr(second, third - second);
    const std::size_t from = row.find(',') + 1, to = row.find(',', from);
    return trace.substr(0, second) + row.replace(from, to - from, cell) + trace.substr(third);
  };
  for (const char* cell : {"", "1e999", "nan", "inf", "0x1", "1 ", "-1e-999999"})
    expect(spoil_cell(cell), summary, "trace.csv:2:1");
  expect(spoil_cell("0.5"), summary, "ticks in order");
  expect(spoil_cell("0,0"), summary, "cells in a row");
  expect(trace.substr(0, third), summary, "1 rows of 'courier'");
  expect(trace.substr(0, second), summary, "0 rows of 'courier'");
  expect(trace + trace.substr(second, third - second), summary, "rows of 'courier'");
  expect("actor,time\n" + trace.substr(second), summary, "another head");
  expect(with(trace, "courier", "other"), summary, "unknown actor");
  std::string digit = trace;
  digit[digit.find_last_of("0123456789")] = '7';
  expect(digit == trace ? with(trace, "running", "idle") : digit, summary, "");
  for (const char* hz : {"0", "-1e308", "1e9", "null", "\"60\""})
    expect(trace, with(summary, "\"hz\": 60.0", "\"hz\": " + std::string(hz)), "summary.json");
  expect(trace, with(summary, "\"duration_s\": 3.0", "\"duration_s\": 1e300"), "duration_s");
  const std::size_t hash = summary.find("\"state_hash\": \"") + 15;
  for (const char* wrong : {"", "xyz", "123456789012345678901234567890"})
    expect(trace, summary.substr(0, hash) + wrong + summary.substr(hash + 16), "state_hash");
  expect(trace, with(summary, "\"outlines\": [", "\"outlines\": [{\"closed\": true, \"points\": []},"), "outline");
  expect(trace, summary.substr(0, summary.size() / 2), "summary.json");
  expect(trace, repeated("[", 100000), "deep");
  expect(trace, with(summary, "\"name\": \"courier\"", "\"name\": \"cou\\u001brier\""), "control characters");
}

/// Whatever the rate, the length, how many bodies, and whether they have names.
TEST(RunFolder, ReadsBackWhateverARunWrites) {
  Random random(21);
  for (int i = 0; i < scenes_of(40); ++i) {
    const Folder folder;
    write_trial(folder);
    std::string level = slurp(folder / "floor.level.toml");
    const std::uint32_t bodies = random.below(5);
    for (std::uint32_t b = 0; b < bodies; ++b) {
      level += "[[body]]\nshape = \"box\"\nsize = [1, 1, 1]\nkind = \"dynamic\"\nmass = 3\nposition = [" +
               std::to_string(3 * b + 5) + ", 3, 0]\n";
      if (random.below(2)) level += "name = \"crate " + std::to_string(b) + "\"\n";
    }
    folder.write("floor.level.toml", level);
    const std::string hz = std::to_string(random.uniform(1, 300));
    const std::string seconds = std::to_string(random.uniform(2.5, 4));
    ASSERT_EQ(jugend(folder, "run trial.toml --out run --hz " + hz + " --set duration_s=" + seconds).code, 0);
    const Answer read = jugend(folder, "compare run run --out c");
    EXPECT_EQ(read.code, 0) << hz << " Hz, " << seconds << " s, " << bodies << " bodies: " << read.err;
  }
}

TEST(RunFolder, NamesThatNoTableHoldsAreRefused) {
  const Folder folder;
  write_trial(folder);
  for (const char* name : {"a,b", "a\\\"b"}) {
    folder.write("floor.level.toml",
                 std::string("[[body]]\nname = \"") + name + "\"\nshape = \"box\"\nsize = [9, 1, 9]\n");
    expect_refused(folder, "run trial.toml", "floor.level.toml:2:1: body[0].name", "without commas");
  }
}

TEST(Options, TakeOneValueEach) {
  const Folder folder;
  write_trial(folder);
  EXPECT_EQ(jugend(folder, "run --set jump.height=1.4 --set run.top_speed=5 trial.toml --out a").code, 0);
  EXPECT_EQ(jugend(folder, "run --set jump.height=1.4 trial.toml --set run.top_speed=5 --out b").code, 0);
  EXPECT_EQ(slurp(folder / "a/trace.csv"), slurp(folder / "b/trace.csv"));
  expect_refused(folder, "run trial.toml --hz 0", "hz", "1 to 10000");
  EXPECT_EQ(jugend(folder, "run trial.toml --most-bodies -1").code, 2);
  const Answer unknown = jugend(folder, "rnu trial.toml");
  EXPECT_EQ(unknown.code, 2);
  EXPECT_NE(unknown.err.find("rnu: found no command"), std::string::npos);
  EXPECT_NE(unknown.err.find("nearest: run"), std::string::npos);
  const Answer alone = jugend(folder, "");
  EXPECT_EQ(alone.code, 0);
  for (const char* command : {"jugend demo", "jugend run", "jugend compare"})
    EXPECT_NE(alone.out.find(command), std::string::npos);
}

/// The commands that a help lists, and theirs.
void run_examples(const Folder& folder, const std::string& path, int& ran) {
  const Answer help = jugend(folder, path + " --help");
  ASSERT_EQ(help.code, 0) << path;
  const auto example = help.out.rfind("Example:\n  jugend ");
  ASSERT_NE(example, std::string::npos) << path << help.out;
  const std::string line = help.out.substr(example + 18);
  const Answer answer = jugend(folder, line.substr(0, line.find('\n')));
  EXPECT_EQ(answer.code, 0) << line << answer.err;
  EXPECT_FALSE(answer.out.empty()) << line;
  EXPECT_EQ(line.find('\n'), line.size() - 1) << "the example is not the last line: " << line;
  ++ran;
  const auto list = help.out.find("Subcommands:\n");
  if (list == std::string::npos) return;
  std::istringstream lines(help.out.substr(list));
  std::string entry;
  for (std::getline(lines, entry); std::getline(lines, entry) && entry.starts_with("  ");) {
    std::istringstream words(entry);
    std::string name;
    words >> name;
    run_examples(folder, path + " " + name, ran);
  }
}

TEST(Help, EndsWithAnExampleThatRunsAsPrinted) {
  const Folder folder;
  fs::create_directory_symlink(JUGEND_SOURCE "/demo", folder / "demo");
  int ran = 0;
  run_examples(folder, "", ran);
  EXPECT_EQ(ran, 23);
}

/// The program through a shell of its own, with limits.
int shell(const Folder& folder, const std::string& command) {
  const int status = std::system(
      ("cd '" + folder.path().string() + "' && " + command + " > /dev/null 2> shell.err < /dev/null").c_str());
  return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

TEST(Disk, LostOutputIsAnError) {
  const Folder folder;
  write_trial(folder);
  const int status = std::system(
      ("cd '" + folder.path().string() + "' && '" + program() + "' run trial.toml > /dev/full 2> err.txt").c_str());
  EXPECT_EQ(WEXITSTATUS(status), 2);
  EXPECT_NE(slurp(folder / "err.txt").find("cannot be written"), std::string::npos);
}

TEST(Disk, WithoutRoomNothingIsChangedAndNothingIsLeft) {
  const Folder folder;
  write_trial(folder);
  // Files may have so many kilobytes, as on a disk that is full.
  for (const int room : {0, 1, 8, 20}) {
    const std::string full = "bash -c \"trap '' XFSZ; ulimit -f " + std::to_string(room) + "; '" + program() + "' ";
    EXPECT_EQ(shell(folder, full + "run trial.toml --out new/er\""), 2) << slurp(folder / "shell.err");
    EXPECT_FALSE(fs::exists(folder / "new")) << room;
    ASSERT_EQ(jugend(folder, "run trial.toml --out run").code, 0);
    const std::string trace = slurp(folder / "run/trace.csv"), summary = slurp(folder / "run/summary.json");
    EXPECT_EQ(shell(folder, full + "run trial.toml --set jump.height=2 --out run\""), 2);
    EXPECT_EQ(slurp(folder / "run/trace.csv"), trace);
    EXPECT_EQ(slurp(folder / "run/summary.json"), summary);
    EXPECT_EQ(std::distance(fs::directory_iterator(folder / "run"), fs::directory_iterator()), 2);
  }
}

TEST(Disk, AKilledRunLeavesTheEarlierOneAndTheNextWorks) {
  const Folder folder;
  write_trial(folder);
  ASSERT_EQ(jugend(folder, "run trial.toml --out run").code, 0);
  Random random(6);
  for (int i = 0; i < scenes_of(25); ++i) {
    const std::string after = std::to_string(random.uniform(0.001, 0.08));
    shell(folder, "timeout -s KILL " + after + " '" + program() + "' run trial.toml --set jump.height=1." +
                      std::to_string(i + 10) + " --out run");
    EXPECT_EQ(jugend(folder, "compare run run --out c").code, 0) << "killed after " << after << " s";
    ASSERT_EQ(jugend(folder, "run trial.toml --out run").code, 0);
    // What was killed as it wrote is young, and may be another's; nothing else is there.
    for (const auto& entry : fs::directory_iterator(folder / "run")) {
      const std::string name = entry.path().filename();
      EXPECT_TRUE(name == "trace.csv" || name == "summary.json" || name.starts_with(".jugend-")) << name;
    }
  }
}

/// A byte, a line, a number spoilt somewhere in a trial's files: it runs, or is refused as all else is.
TEST(Mutations, OfATrialsFilesAreRunOrRefusedWithTheirPlace) {
  Random random(14);
  const char* words[] = {"nan",  "inf",      "1e400", "-1",  "\"\"",    "[]", "{}",
                         "true", "[[body]]", "=",     "'''", "\x1b[2J", "..", "9e99"};
  for (int i = 0; i < scenes_of(120); ++i) {
    const Folder folder;
    write_trial(folder);
    const char* files[] = {"trial.toml", "courier.toml", "floor.level.toml"};
    const std::string file = files[random.below(3)];
    std::string text = slurp(folder / file);
    const std::size_t at = random.below(static_cast<std::uint32_t>(text.size()));
    const std::uint32_t how = random.below(4);
    if (how == 0) text[at] = static_cast<char>(random.below(256));
    if (how == 1) text.erase(at, 1 + random.below(20));
    if (how == 2) text.insert(at, words[random.below(14)]);
    if (how == 3) text.resize(at);
    folder.write(file, text);
    const Answer answer = jugend(folder, "run trial.toml");
    if (answer.code == 0) continue;
    EXPECT_EQ(answer.code, 2) << text << answer.err;
    EXPECT_NE(answer.err.find(".toml"), std::string::npos) << answer.err;
    EXPECT_EQ(std::ranges::count(answer.err, '\n'), 1) << answer.err;
    EXPECT_FALSE(fs::exists(folder / "runs")) << answer.err;
  }
}

}  // namespace
}  // namespace jugend::testing
