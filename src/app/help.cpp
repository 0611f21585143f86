#include "app/help.h"

#include <QMap>

#include "core/engine/engine.h"

namespace hscaffold::app {

QString helpText(const EngineInfo& engine) {
  QString text = R"(# From a reference to a proof

1. **Drop a picture** anywhere in the window, paste it, or choose it with Ctrl+I. It becomes a *reference*, covers the *frame*, and gets a *guide* made of its edges.
2. **Place it**: double-click the source table. Drag to move, corners to scale, the knob to turn (Shift: by 15 degrees). Esc ends.
3. **Tune the edges** in the guide's plank: drag the two thresholds in the histogram. An edge begins where contrast is above the right one and goes on while it is above the left one.
4. **Set weight and range** on the span board. The bar's height is the weight: 1 is plain, below 0.3 it is a hint, above 1 it burns in. Its ends say in which steps the guide acts.
5. **Write the brief** and **pull one** (Ctrl+Return). Change one thing, pull again with the same seed, and compare.

## Sheets
*Pull sheet* (Ctrl+Shift+Return) pulls seeds, or a test strip over one or two settings with the seed held; a right click on a bar, a plank, a style card or a number begins one there, and so does Alt with a drag of a bar's end. The Sheet (key 2) shows a strip as its matrix. *Hold* says how much of the layout is in a proof, *shift* how far its look moved from the reference. Return shows the chosen ones large; B blinks, W wipes, R adds the reference, Q squints, M goes to the next place where most was lost. K gives a star, Delete puts away, L pulls at full size, A adopts, F finds a balance from there. *What this sheet says* is drawn from the outlined cells. *Find* (Ctrl+Alt+Return) looks for a balance: what has to hold, how far the look has to move, what may move, how many proofs; P steps through what it proposes. A proof that is dropped on the window can give its settings back.

## Line art and loose lines
*Add guide* has line art (from photographs, or from drawings on paper: light, rules, folds and coloured stains are taken away) and loose lines, which say about where things are and leave the rest open. *Compare maps* (Ctrl+L) shows edges, line art, loose lines and depth side by side before a guide is made. Dropping an SVG drawing makes a guide of its strokes.

## Depth
*Add guide*, *Depth* orders a picture: white is near, black is far. It is a guess; the plank says how much of it is sure. Paint over what is near or far (H; + and - change how near), over what is one depth (E), drag an arrow from what is in front to what is behind (A), a ramp from far to near (M), a loop round a plane (P) or round what stands apart (C); S takes hold of hints, N points out where one would help most. *Depth* (Ctrl+5) puts the map in the proof's place: as a relief that you turn, in grey, in colours, or with its doubt. D paints a level into the map itself, I lightens (Ctrl darkens), U smudges, T takes that back.

## Stage
Key 4: figures, animals and things on a set, seen by an eye. Drag joints (Alt: along the ground), rings, things; Tab and arrows lead joints, Return types degrees, P holds one there. A right click looks, faces, holds, lets down, mirrors, groups, locks, limits a guide to a thing. *Panel* shows the selected reference. Ctrl+C, X and V take things along, to other studies, too. *Use on the Bench* makes guides of pose, depth and lines, which follow until they are frozen. A reference laid over the frame gives its eye (*Its eye*) and its depth (*With a picture...*).

## Patterns
*Add guide*, *Pattern* asks for light and dark and nothing else: a code that scans, rings, a spiral, checks, waves, rays, a wind rose, or any picture in light and dark (*Make it from the picture* in the dots of the row). Lay it by hand (V): drag it, its corners, the knob that turns it, the bar that leans it away. It begins at 15 % and strong, since light and dark settle after the picture is composed. Under a proof with a code stands whether it scans, with what margin, and in which ways of looking; *Misses* shows modules that read wrongly, *Squint* (Ctrl+7) the proof as from afar. Short texts scan better.

## Light, mood, detail
*Tone* has a light table: paint shadow (S) and light (H), take away (E), drag a fall of light (F), a lamp (O), rays (Y), a loop round an area (A); V takes hold of what lies there, and its plank lists it. The wheel colours light against shadow; the ball turns the light over what is near, once that is taken from depth. *Hours* lay a time of day. Without a reference light and colours are painted from nothing.

*Mood*: *Start*, a reference, *Mood only*; its colours lie as they do, or are sorted by light, colour or depth into the layout of the first guide's reference. *Colours* in the brief are wanted in the picture: taken from one, changed, kept.

*Detail* keeps some scales of a picture: its surfaces alone, or all but its surfaces.

## By hand, over any map
Tools stand above the source table: draw (D), rub out (R), restore (T), keep or drop what is inside a loop (K, X), drop specks, pen (P) and strokes (S) for line art and loose lines. [ and ] or Ctrl+wheel change the size, Shift draws straight, Esc gives up. L looks again: drag moves the view. Retouch lies over the extraction: tune as you like, it stays. *Before* (Ctrl+B) shows the map without it. The dots at the end of the row hide, clear or merge it, show what has moved under it since, and trace the map to strokes. With strokes: click and Shift+click select, arrows move, Del deletes, M smooths, J joins two, comma and full stop change their weight.

*Region* (G) limits where a guide acts: paint, take away, add a loop (K) or a colour (C, with Shift wherever it is), feather, invert. Outside it the guide does nothing, in the map and in the engine.

## Figures
*Add guide*, *Pose* holds skeletons of people and four-legged animals. Drag poses from the library (B) onto the picture; drag joints (J): with *Fit* (F) the body follows when wrists, ankles, head, neck or hips are dragged. Bones never get longer than natural. Ctrl: the joint alone. T turns a limb, M takes the whole figure (corners scale, the knob turns, about the cross), H clicks joints seen, hidden, absent. Shift or a frame selects several, arrows nudge, P pins, Del makes absent. A right click mirrors, swaps sides, relaxes, adds hands and face. N goes to the next figure and shows it large. *Blend* mixes the figure with a pose. Key points (COCO) and motion clips (BVH) are brought in like pictures. *Add pose words* tells the prompt what the figures do. Joints of found figures that may be wrong are hollow: K goes to the next one, Return says that it is right, X swaps left and right.

## The brief
Five leaves; each tab says what acts on it, F4 shows all of them. *Words*: select a phrase and drag its number up or down (or Ctrl with wheel or arrows), and it counts more or less. *Styles*: a click takes a card in or out, its bar sets the strength; several mix. *Start*: a reference, a proof or a colour in place of noise, left as far as the *change amount* says; *mood only* takes its colours. With a start picture, say what it shows and what is wanted instead: only the difference acts, and if the words name a guide with a region, only there. *Steps*: small variations of the seed, and briefs kept for every study.

## What a range does
Pictures settle from coarse to fine. A guide can only move what is still open while it acts.

- *Whole way*: every line is kept, unwanted texture too.
- *Opening only*: the big layout is set, detail is left to the prompt.
- *Late entry*: the prompt's own composition forms first, then detail bends to the map.
- *Fade out*: the layout holds, the finish is loose.

## Looking
Wheel zooms both tables, the middle button (or Alt and drag) pans, 0 fits, 9 shows actual size. *Ghost* fades between reference and map, *Paper* (Ctrl+4) shows lines black on white. *Marks* (Ctrl+1) lays the guides' lines over the proof, *Misses* (Ctrl+2) shows lines that were lost, *Wipe* (Ctrl+3) drags the reference over it. F6 and F7 give one table the whole window, F9 leaves the two tables alone, F8 changes between dusk and day.

## Keys
Ctrl+Tab goes from room to room: references, guides, source, proof, board, brief; Tab goes through one and on to the next. Ctrl+Z and Ctrl+Shift+Z undo and redo. Ctrl+D throws a new seed. Ctrl+R opens the frame, Ctrl+K the checks. On the span board: left and right move the lit end by 1 % (Shift: 5 %), up and down the weight, Space goes to the next end, Page Up and Page Down to the next guide. On a plank: Alt+Up and Alt+Down reorder, Del removes, Space turns it on or off. Numbers are dragged sideways, typed, stepped by arrows, and reset by a double click.

## Where your work is
Every finished action is kept in the study's file at once; there is nothing to save. *Save as* gives the study a name and place. A study that is open elsewhere opens for looking; *Save as* makes a copy to work on. Every proof carries its recipe inside its PNG; *Adopt settings* brings it back.

## The built-in stand-in
It is a simulation without a learned model. It answers to weights, ranges, seeds and words as a generator would, so that balance can be found cheaply. A colour goes to the thing it stands before: "red dune". Words it does not know still change the outcome, the same way each time.

)";
  if (!engine.words) return text;
  text += QString("## Words that %1 knows\n").arg(QString::fromStdString(engine.title));
  for (const auto& [group, words] : engine.words->groups) {
    QStringList all;
    for (const std::string& word : words) all << QString::fromStdString(word);
    text += QString("**%1**: %2\n\n").arg(QString::fromStdString(group), all.join(", "));
  }
  return text;
}

}  // namespace hscaffold::app
