#include "core/study/study_notes.h"

#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <cstdlib>
#include <fstream>
#include <nlohmann/json.hpp>

#include "core/digest.h"
#include "core/problem.h"

namespace hscaffold {
namespace {

using nlohmann::json;

constexpr std::array names = {StudyNotes::Name::step, StudyNotes::Name::shelf};

/// Steps of a study begin at a number that is its own, so that a note about another one is far from them.
constexpr std::int64_t near = 1 << 20;

json packed(const Bytes& bytes) {
  const auto* first = reinterpret_cast<const std::uint8_t*>(bytes.data());
  return json::binary(std::vector<std::uint8_t>(first, first + bytes.size()));
}

Bytes unpacked(const json& packed) {
  const auto bytes = std::as_bytes(std::span(packed.get_binary()));
  return {bytes.begin(), bytes.end()};
}

bool isOwn(const std::filesystem::path& folder) {
  struct stat there {};
  return ::lstat(folder.c_str(), &there) == 0 && S_ISDIR(there.st_mode) && there.st_uid == ::getuid() &&
         (there.st_mode & (S_IWGRP | S_IWOTH)) == 0;
}

std::string wholePath(const std::filesystem::path& study) {
  std::error_code error;
  const auto whole = std::filesystem::weakly_canonical(study, error);
  return (error ? study : whole).string();
}

}  // namespace

std::string identityOf(const std::filesystem::path& file) {
  struct stat there {};
  return ::stat(file.c_str(), &there) == 0 ? fmt::format("{:x}-{}", there.st_dev, there.st_ino) : std::string();
}

std::filesystem::path StudyNotes::folder() {
  std::error_code error;
  const auto within = [&](const std::filesystem::path& parent, const std::string& name) {
    const auto path = parent / name;
    ::mkdir(path.c_str(), S_IRWXU);
    return isOwn(path) ? path : std::filesystem::path();
  };
  // In memory, and swept away when its user has left.
  if (const char* own = std::getenv("XDG_RUNTIME_DIR"); own != nullptr && isOwn(own))
    if (auto path = within(own, "humble-scaffold"); !path.empty()) return path;
  const auto name = fmt::format("humble-scaffold-{}", ::getuid());
  // In memory as well: on a disk names are made only when it has done what others wait for.
  if (auto path = within("/dev/shm", name); !path.empty()) return path;
  const auto temporary = std::filesystem::temp_directory_path(error);
  return error ? std::filesystem::path() : within(temporary, name);
}

StudyNotes::StudyNotes(const std::filesystem::path& study) : study_(wholePath(study)) {
  const auto where = folder();
  const std::string identity = identityOf(study);
  if (!where.empty() && !identity.empty()) stem_ = where / identity;
}

std::filesystem::path StudyNotes::fileOf(Name name, const char* ending) const {
  return stem_.string() + (name == Name::step ? ".step" : ".shelf") + ending;
}

void StudyNotes::put(Name name, std::int64_t written, const StudyEntry& entry) const {
  if (stem_.empty()) return;
  const Bytes note = noteOf(entry, written, study_.string());
  // Not waited for until it is on a disk: a killed program leaves to the system what it has written.
  const auto fresh = fileOf(name, ".new");
  std::ofstream stream(fresh, std::ios::binary | std::ios::trunc);
  stream.write(reinterpret_cast<const char*>(note.data()), static_cast<std::streamsize>(note.size()));
  stream.close();
  std::error_code error;
  if (stream) std::filesystem::rename(fresh, fileOf(name), error);
  if (!stream || error) drop(name);
}

void StudyNotes::drop(Name name) const {
  std::error_code ignored;
  if (stem_.empty()) return;
  for (const char* ending : {"", ".new"}) std::filesystem::remove(fileOf(name, ending), ignored);
}

void StudyNotes::dropAll() const {
  for (const Name name : names) drop(name);
}

std::vector<StudyEntry> StudyNotes::after(std::int64_t step) const {
  std::vector<StudyEntry> found;
  for (const Name name : names) {
    std::error_code error;
    if (stem_.empty() || !std::filesystem::exists(fileOf(name), error)) continue;
    StudyEntry entry;
    std::int64_t written = 0;
    std::string study;
    try {
      if (!readNote(readWholeFile(fileOf(name)), entry, written, study)) continue;
    } catch (const Problem&) {
      continue;
    }
    // A study that never counted its steps is told by where it lies.
    if (written == 0 && study != study_) continue;
    const std::int64_t end = entry.settings.empty() ? written + near : entry.step;
    if (step < written || step >= end || (written == 0 && step != 0)) continue;
    found.push_back(std::move(entry));
  }
  return found;
}

Bytes noteOf(const StudyEntry& entry, std::int64_t written, const std::string& study) {
  json note = {{"study", study},          {"written", written},     {"settings", entry.settings},
               {"step", entry.step},      {"parts", json::array()}, {"pictures", json::array()},
               {"sheets", json::array()}, {"proofs", json::array()}};
  for (const WorkPart& part : entry.parts) note["parts"].push_back({part.id, part.kind, packed(part.bytes)});
  for (const PictureFile& picture : entry.pictures)
    note["pictures"].push_back({picture.content, packed(*picture.bytes)});
  for (const SheetRow& sheet : entry.sheets)
    note["sheets"].push_back({sheet.number, sheet.plan, sheet.waiting, sheet.made});
  for (const ProofRow& proof : entry.proofs)
    note["proofs"].push_back({proof.number, proof.made, proof.milliseconds, proof.recipe, proof.holds,
                              packed(proof.png), packed(proof.thumbnail), proof.sheet, proof.cell,
                              proof.shift ? json(*proof.shift) : json()});
  const auto packedNote = json::to_cbor(note);
  const auto content = std::as_bytes(std::span(packedNote));
  const std::string digest = digestOf(content);
  const auto head = bytesOf(digest);
  Bytes out(head.begin(), head.end());
  out.insert(out.end(), content.begin(), content.end());
  return out;
}

bool readNote(std::span<const std::byte> bytes, StudyEntry& entry, std::int64_t& written, std::string& study) {
  constexpr std::size_t head = 32;
  if (bytes.size() < head || digestOf(bytes.subspan(head)) != textOf(bytes.first(head))) return false;
  try {
    const json note = json::from_cbor(bytes.begin() + head, bytes.end());
    StudyEntry read;
    read.settings = note.at("settings").get<std::string>();
    read.step = note.at("step").get<std::int64_t>();
    for (const json& part : note.at("parts"))
      read.parts.push_back({part.at(0).get<std::string>(), part.at(1).get<std::string>(), unpacked(part.at(2))});
    for (const json& picture : note.at("pictures"))
      read.pictures.push_back(
          {picture.at(0).get<std::string>(), std::make_shared<const Bytes>(unpacked(picture.at(1)))});
    for (const json& sheet : note.at("sheets"))
      read.sheets.push_back({sheet.at(0).get<std::int64_t>(), sheet.at(1).get<std::string>(),
                             sheet.at(2).get<std::string>(), sheet.at(3).get<std::string>()});
    for (const json& proof : note.at("proofs")) {
      ProofRow& row = read.proofs.emplace_back();
      row.number = proof.at(0).get<std::int64_t>();
      row.made = proof.at(1).get<std::string>();
      row.milliseconds = proof.at(2).get<double>();
      row.recipe = proof.at(3).get<std::string>();
      row.holds = proof.at(4).get<std::string>();
      row.png = unpacked(proof.at(5));
      row.thumbnail = unpacked(proof.at(6));
      row.sheet = proof.at(7).get<std::int64_t>();
      row.cell = proof.at(8).get<int>();
      if (!proof.at(9).is_null()) row.shift = proof.at(9).get<double>();
    }
    written = note.at("written").get<std::int64_t>();
    study = note.at("study").get<std::string>();
    entry = std::move(read);
    return true;
  } catch (const json::exception&) {
    return false;
  }
}

}  // namespace hscaffold
