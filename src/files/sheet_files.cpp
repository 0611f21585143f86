#include "files/sheet_files.h"

#include <fmt/format.h>

#include <QBuffer>
#include <QImage>
#include <QPainter>
#include <cmath>
#include <map>
#include <set>

#include "core/image/xml_text.h"
#include "files/csv_text.h"

namespace hscaffold {
namespace {

const QColor ground("#242322"), text("#ece7dd"), soft("#a59f93"), holdColour("#7fb069"), shiftColour("#e59a3c");

std::string measuresInWords(const ProofInfo& proof) {
  const auto hold = meanHold(proof);
  std::string words = hold ? fmt::format("hold {:.0f}", *hold) : "hold not measured";
  if (proof.shift) words += fmt::format("  shift {:.0f}", *proof.shift);
  return words;
}

std::string nameOf(const SheetContent& content, const ProofInfo& proof) {
  return content.plan != nullptr ? cellName(*content.plan, proof.cell)
                                 : fmt::format("proof {}, seed {}", proof.number, proof.recipe.brief.seed);
}

QImage pictureOf(const SheetContent& content, const ProofInfo& proof, int width) {
  const Bytes png = content.png(proof.number);
  const QImage image = QImage::fromData(reinterpret_cast<const uchar*>(png.data()), static_cast<int>(png.size()));
  return image.isNull() ? image : image.scaledToWidth(std::min(width, image.width()), Qt::SmoothTransformation);
}

Bytes owned(std::span<const std::byte> bytes) { return {bytes.begin(), bytes.end()}; }

/// Columns and rows, which proof stands where, and what stands at the axes.
struct Grid {
  int columns = 1, rows = 1;
  std::map<std::pair<int, int>, const ProofInfo*> at;  ///< by row and column
  std::vector<std::string> across, down;               ///< empty: no axis
};

Grid gridOf(const SheetContent& content) {
  Grid grid;
  if (content.plan == nullptr || content.plan->axes.empty()) {
    const auto count = std::max<std::size_t>(1, content.proofs.size());
    grid.columns = static_cast<int>(std::ceil(std::sqrt(static_cast<double>(count))));
    grid.rows =
        static_cast<int>((count + static_cast<std::size_t>(grid.columns) - 1) / static_cast<std::size_t>(grid.columns));
    for (std::size_t i = 0; i < content.proofs.size(); ++i)
      grid.at[{static_cast<int>(i) / grid.columns, static_cast<int>(i) % grid.columns}] = content.proofs[i];
    return grid;
  }
  const SheetPlan& plan = *content.plan;
  const int seeds = static_cast<int>(plan.seeds.size());
  grid.columns = plan.across();
  grid.rows = plan.down() * seeds;
  for (int i = 0; i < plan.across(); ++i) grid.across.push_back(valueName(plan.axes[0], static_cast<std::size_t>(i)));
  for (int row = 0; row < grid.rows; ++row) {
    std::string label = plan.axes.size() > 1 ? valueName(plan.axes[1], static_cast<std::size_t>(row / seeds)) : "";
    if (seeds > 1 || plan.axes.size() < 2)
      label += fmt::format("{}seed {}", label.empty() ? "" : "\n", plan.seeds[static_cast<std::size_t>(row % seeds)]);
    grid.down.push_back(label);
  }
  for (const ProofInfo* proof : content.proofs) {
    const CellPlace place = placeOf(plan, proof->cell);
    grid.at[{place.down * seeds + place.seed, place.across}] = proof;
  }
  return grid;
}

}  // namespace

std::string sheetTable(const SheetContent& content) {
  // Guides by id; names may change between proofs.
  std::map<std::string, std::string> guides;
  for (const ProofInfo* proof : content.proofs)
    for (const RecipeGuide& entry : proof->recipe.guides) guides[entry.guide.id] = entry.guide.name;
  std::string out = "proof,settings,seed,steps,guidance";
  for (const auto& [id, name] : guides) out += "," + quoted("hold of " + name);
  out += ",hold,shift,milliseconds,prompt\r\n";
  for (const ProofInfo* proof : content.proofs) {
    const Brief& brief = proof->recipe.brief;
    out += fmt::format("{},{},{},{},{}", proof->number, quoted(nameOf(content, *proof)), brief.seed, brief.steps,
                       brief.guidance);
    for (const auto& [id, name] : guides) {
      const auto hold = proof->holds.find(id);
      out += hold != proof->holds.end() ? fmt::format(",{:.1f}", hold->second) : ",";
    }
    const auto mean = meanHold(*proof);
    out += mean ? fmt::format(",{:.1f}", *mean) : ",";
    out += proof->shift ? fmt::format(",{:.1f}", *proof->shift) : ",";
    out += fmt::format(",{:.0f},{}\r\n", proof->milliseconds, quoted(brief.prompt));
  }
  return out;
}

std::string sheetPage(const SheetContent& content) {
  const Grid grid = gridOf(content);
  pugi::xml_document document;
  const auto say = [](pugi::xml_node in, const char* element, const std::string& words) {
    auto node = in.append_child(element);
    node.text().set(words.c_str());
    return node;
  };
  document.append_child(pugi::node_doctype).set_value("html");
  auto html = document.append_child("html");
  html.append_attribute("lang") = "en";
  auto head = html.append_child("head");
  head.append_child("meta").append_attribute("charset") = "utf-8";
  say(head, "title", content.title);
  say(head, "style",
      "body{background:#242322;color:#ece7dd;font:14px sans-serif;margin:24px}"
      "table{border-spacing:10px}th{font-weight:600;color:#a59f93;white-space:pre-line}"
      "td{vertical-align:top}img{display:block;max-width:100%}small{color:#a59f93}"
      ".bar{height:4px;font-size:0;background:#383633;margin-top:3px}"
      ".hold{background:#7fb069;height:4px}.shift{background:#e59a3c;height:4px}");
  auto body = html.append_child("body");
  say(body, "h1", content.title);
  if (!content.proofs.empty()) {
    const Brief& brief = content.plan != nullptr ? content.plan->base.brief : content.proofs.front()->recipe.brief;
    say(body, "p", brief.prompt);
  }
  auto table = body.append_child("table");
  if (!grid.across.empty()) {
    auto line = table.append_child("tr");
    line.append_child("th");
    for (const std::string& label : grid.across) say(line, "th", label);
  }
  // A bar as long as its number is large. Elements without any content would not be HTML.
  const auto bar = [&](pugi::xml_node in, const char* of, double share) {
    auto whole = in.append_child("div");
    whole.append_attribute("class") = "bar";
    auto part = say(whole, "div", "\xC2\xA0");
    part.append_attribute("class") = of;
    part.append_attribute("style") = fmt::format("width:{:.0f}%", share).c_str();
  };
  for (int row = 0; row < grid.rows; ++row) {
    auto line = table.append_child("tr");
    if (!grid.down.empty()) say(line, "th", grid.down[static_cast<std::size_t>(row)]);
    for (int column = 0; column < grid.columns; ++column) {
      auto cell = line.append_child("td");
      const auto found = grid.at.find({row, column});
      if (found == grid.at.end()) continue;
      const ProofInfo& proof = *found->second;
      QByteArray jpeg;
      QBuffer buffer(&jpeg);
      buffer.open(QIODevice::WriteOnly);
      pictureOf(content, proof, 512).save(&buffer, "JPEG", 88);
      auto picture = cell.append_child("img");
      picture.append_attribute("alt") = nameOf(content, proof).c_str();
      picture.append_attribute("src") = ("data:image/jpeg;base64," + jpeg.toBase64()).constData();
      if (const auto hold = meanHold(proof)) bar(cell, "hold", *hold);
      if (proof.shift) bar(cell, "shift", *proof.shift);
      auto words = say(cell, "small", nameOf(content, proof));
      words.append_child("br");
      words.append_child(pugi::node_pcdata).set_value(measuresInWords(proof).c_str());
    }
  }
  return textOf(document, pugi::format_raw);
}

Bytes sheetPicture(const SheetContent& content, int cellWidth) {
  const Grid grid = gridOf(content);
  Size frame{3, 2};
  if (!content.proofs.empty()) frame = content.proofs.front()->recipe.frame;
  const int cellHeight = std::max(1, cellWidth * frame.height / frame.width), gap = 12, foot = 34;
  const int left = grid.down.empty() ? gap : 110, top = grid.across.empty() ? 52 : 80;
  const qint64 width = left + static_cast<qint64>(grid.columns) * (cellWidth + gap),
               height = top + static_cast<qint64>(grid.rows) * (cellHeight + foot + gap);
  if (width * height > 120'000'000 || width > 32000 || height > 32000)
    throw failed("The sheet is too large for one picture. Write it as a page (.html) or a table (.csv).");
  QImage sheet(static_cast<int>(width), static_cast<int>(height), QImage::Format_RGB32);
  sheet.fill(ground);
  QPainter painter(&sheet);
  painter.setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
  QFont font("Inter");
  font.setPixelSize(20);
  font.setWeight(QFont::DemiBold);
  painter.setFont(font);
  painter.setPen(text);
  painter.drawText(QRect(gap, 8, sheet.width() - 2 * gap, 34), Qt::AlignLeft | Qt::AlignVCenter,
                   QString::fromStdString(content.title));
  font.setPixelSize(13);
  painter.setFont(font);
  painter.setPen(soft);
  const auto columnX = [&](int column) { return left + column * (cellWidth + gap); };
  const auto rowY = [&](int row) { return top + row * (cellHeight + foot + gap); };
  for (int i = 0; i < static_cast<int>(grid.across.size()); ++i)
    painter.drawText(QRect(columnX(i), top - 26, cellWidth, 22), Qt::AlignCenter,
                     QString::fromStdString(grid.across[static_cast<std::size_t>(i)]));
  for (int i = 0; i < static_cast<int>(grid.down.size()); ++i)
    painter.drawText(QRect(4, rowY(i), left - 12, cellHeight), Qt::AlignVCenter | Qt::AlignRight,
                     QString::fromStdString(grid.down[static_cast<std::size_t>(i)]));
  for (const auto& [place, proof] : grid.at) {
    const QRect cell(columnX(place.second), rowY(place.first), cellWidth, cellHeight);
    const QImage picture = pictureOf(content, *proof, cellWidth);
    if (!picture.isNull()) painter.drawImage(cell, picture);
    const auto bar = [&](int y, double share, const QColor& colour) {
      painter.fillRect(QRectF(cell.left(), y, cellWidth, 4), ground.lighter(150));
      painter.fillRect(QRectF(cell.left(), y, cellWidth * share / 100, 4), colour);
    };
    if (const auto hold = meanHold(*proof)) bar(cell.bottom() + 4, *hold, holdColour);
    if (proof->shift) bar(cell.bottom() + 10, *proof->shift, shiftColour);
    painter.setPen(soft);
    painter.drawText(
        QRect(cell.left(), cell.bottom() + 15, cellWidth, 18), Qt::AlignLeft | Qt::AlignVCenter,
        QString::fromStdString(grid.across.empty() ? measuresInWords(*proof) + "  " + nameOf(content, *proof)
                                                   : measuresInWords(*proof)));
  }
  painter.end();
  QByteArray png;
  QBuffer buffer(&png);
  buffer.open(QIODevice::WriteOnly);
  if (!sheet.save(&buffer, "PNG")) throw failed("The sheet could not be made into a picture.");
  return owned(std::as_bytes(std::span(png.constData(), static_cast<std::size_t>(png.size()))));
}

Bytes sheetFile(const SheetContent& content, const std::string& name) {
  const auto ends = [&](const char* ending) {
    return QString::fromStdString(name).endsWith(ending, Qt::CaseInsensitive);
  };
  if (ends(".csv")) return owned(bytesOf(sheetTable(content)));
  if (ends(".html") || ends(".htm")) return owned(bytesOf(sheetPage(content)));
  if (ends(".png")) return sheetPicture(content);
  throw badInput("A sheet is written as .png, .csv or .html, and " + name + " is none of them.");
}

}  // namespace hscaffold
