<?php

namespace App\View\Tables;

use App\Models\Answer;
use App\Models\ClientFile;
use App\Models\Repair;
use App\Rejects\CauseGroup;
use App\View\Page;
use Illuminate\Http\Request;

/** Tables of Rejects. */
final readonly class RejectTables
{
    public function __construct(private Request $request, private Page $page)
    {
    }

    /**
     * @param  list<CauseGroup>  $groups
     * @param  array<string, \stdClass>  $tasks  of CauseTasks::all
     */
    public function causes(array $groups, array $tasks): Table
    {
        return Table::of($this->request, 'causes', [
            Column::text('cause', 'Cause', fn (CauseGroup $g) => $g->title()),
            Column::text('load', 'Load', fn (CauseGroup $g) => $this->load($g->load)),
            Column::text('field', 'Field and value', fn (CauseGroup $g) => $g->fieldTitle().($g->kinds <= 1 ? " $g->value" : '')),
            Column::text('stage', 'Stage', fn (CauseGroup $g) => $g->stage),
            Column::number('own', 'Own rows', fn (CauseGroup $g) => $g->own),
            Column::number('held', 'Held below', fn (CauseGroup $g) => $g->held),
            Column::number('due', 'Due', fn (CauseGroup $g) => $g->due),
            Column::number('freed', 'Freed by a repair', fn (CauseGroup $g) => $g->freed()),
            Column::text('with', 'With', fn (CauseGroup $g) => isset($tasks[$g->id()])
                ? trim("{$tasks[$g->id()]->who} {$tasks[$g->id()]->until}")
                : ''),
            Column::bare('Open'),
        ], $groups);
    }

    /** @param  list<CauseGroup>  $groups  that hold rows in the end */
    public function roots(array $groups): Table
    {
        return Table::of($this->request, 'roots', [
            Column::text('cause', 'Cause in the end', fn (CauseGroup $g) => $g->title()),
            Column::text('load', 'Load', fn (CauseGroup $g) => $this->load($g->load)),
            Column::text('field', 'Field and value', fn (CauseGroup $g) => $g->fieldTitle().($g->kinds <= 1 ? " $g->value" : '')),
            Column::number('held', 'Rows held by it', fn (CauseGroup $g) => $g->held),
        ], $groups);
    }

    /** @param  list<Repair>  $repairs */
    public function repairs(array $repairs): Table
    {
        return Table::of($this->request, 'repairs', [
            Column::text('when', 'When', fn (Repair $r) => $r->created_at->format('Y-m-d H:i:s')),
            Column::text('who', 'Who', fn (Repair $r) => $r->user->name ?? 'the command line'),
            Column::text('what', 'Repair', fn (Repair $r) => $r->title),
            Column::text('extract', 'Extract', fn (Repair $r) => $r->extract->name ?? ''),
            Column::text('about', 'Column or field', fn (Repair $r) => (string) $r->about),
            Column::text('was', 'From', fn (Repair $r) => (string) $r->was),
            Column::text('becomes', 'To', fn (Repair $r) => (string) $r->becomes),
            Column::text('why', 'Because', fn (Repair $r) => (string) $r->reason),
            Column::number('rows', 'Rows', fn (Repair $r) => $r->rows),
            Column::number('freed', 'Freed', fn (Repair $r) => array_sum($r->freed ?? [])),
            Column::bare('Take back'),
        ], $repairs);
    }

    /**
     * @param  list<Answer>  $answers
     * @param  array<int, int>  $open  answer → cells of it that wait for a decision
     */
    public function answers(array $answers, array $open): Table
    {
        return Table::of($this->request, 'answers', [
            Column::text('name', 'File', fn (Answer $a) => $a->name),
            Column::text('to', 'Answer to', fn (Answer $a) => (string) $a->file?->title),
            Column::text('by', 'From', fn (Answer $a) => (string) $a->sent_by),
            Column::text('when', 'When', fn (Answer $a) => (string) $a->created_at?->toDateTimeString()),
            Column::number('open', 'Open', fn (Answer $a) => $open[$a->id] ?? 0),
            Column::text('state', 'State', fn (Answer $a) => $a->state->value),
        ], $answers);
    }

    /** @param  list<ClientFile>  $files  with the number of answers */
    public function files(array $files): Table
    {
        return Table::of($this->request, 'files', [
            Column::text('what', 'File', fn (ClientFile $f) => "$f->title $f->code"),
            Column::number('rows', 'Rows', fn (ClientFile $f) => $f->row_count),
            Column::text('written', 'Written', fn (ClientFile $f) => $f->created_at->format('Y-m-d H:i:s')),
            Column::text('by', 'By', fn (ClientFile $f) => $f->user->name ?? 'the command line'),
            Column::text('to', 'To', fn (ClientFile $f) => (string) $f->to_whom),
            Column::text('sent', 'Sent', fn (ClientFile $f) => (string) $f->sentOn()),
            Column::number('answers', 'Came back', fn (ClientFile $f) => (int) $f->getAttribute('answers_count')),
            Column::text('state', 'State', fn (ClientFile $f) => $f->closed_at === null ? 'open' : 'closed'),
            Column::bare('Fetch'),
        ], $files);
    }

    /** @param  list<\stdClass>  $parents  of CauseReader::parentsThatHold */
    public function held(array $parents): Table
    {
        return Table::of($this->request, 'held', [
            Column::text('parent', 'Waits for', fn ($h) => "$h->parent_entity $h->parent_space $h->parent_key"),
            Column::text('load', 'Rows of', fn ($h) => $this->load((int) $h->load_id)),
            Column::text('because', 'Because it is', fn ($h) => str_replace('parent_', '', $h->code)),
            Column::number('rows', 'Rows', fn ($h) => (int) $h->n),
        ], $parents);
    }

    /** @param  list<\stdClass>  $left  of CauseReader::leftBehind */
    public function left(array $left): Table
    {
        return Table::of($this->request, 'left', [
            Column::text('load', 'Load', fn ($c) => $this->load((int) $c->load_id)),
            Column::text('cause', 'Failed for', fn ($c) => $c->message),
            Column::text('field', 'Field and value', fn ($c) => ($c->field ?? 'whole row')." $c->value"),
            Column::number('rows', 'Rows', fn ($c) => (int) $c->n),
            Column::plain('Left behind because'),
            Column::bare('Take back'),
        ], $left);
    }

    /** @param  list<\stdClass>  $lines  of LeftOut::lines */
    public function byDefinition(array $lines): Table
    {
        return Table::of($this->request, 'defined', [
            Column::text('outcome', 'Outcome', fn ($l) => $l->outcome),
            Column::text('load', 'Load', fn ($l) => $this->load((int) $l->load_id)),
            Column::text('why', 'Because', fn ($l) => $l->why),
            Column::number('rows', 'Rows', fn ($l) => (int) $l->n),
            Column::text('who', 'Said by', fn ($l) => $l->who),
        ], $lines);
    }

    /** @param  list<\stdClass>  $waivers  of WaiverBook::toConfirm */
    public function toConfirm(array $waivers): Table
    {
        return Table::of($this->request, 'confirm', [
            Column::text('load', 'Load', fn ($c) => $this->load((int) $c->load_id)),
            Column::text('cause', 'Failed for', fn ($c) => "$c->message $c->value"),
            Column::number('rows', 'Rows', fn ($c) => (int) $c->n),
            Column::text('reason', 'Left behind because', fn ($c) => "$c->reason $c->who"),
        ], $waivers);
    }

    /** @param  list<\stdClass>  $links  of Links::open */
    public function references(array $links): Table
    {
        return Table::of($this->request, 'references', [
            Column::text('load', 'Load', fn ($l) => $this->load((int) $l->load_id)),
            Column::text('field', 'Field', fn ($l) => $l->field),
            Column::number('waiting', 'References waiting', fn ($l) => (int) $l->waiting),
            Column::number('open', 'Left open', fn ($l) => (int) $l->waived),
            Column::bare('Leave open'),
        ], $links);
    }

    /** @param  list<\stdClass>  $corrections  of CorrectionList::waiting */
    public function corrections(array $corrections): Table
    {
        return Table::of($this->request, 'corrections', [
            Column::bare('Choose'),
            Column::text('extract', 'Extract', fn ($c) => "$c->source $c->extract"),
            Column::text('row', 'Row', fn ($c) => $c->key ?? 'no key'),
            Column::text('column', 'Column', fn ($c) => $c->whole ? 'whole row' : $c->header),
            Column::text('was', 'It said', fn ($c) => $c->old_value),
            Column::text('to', 'Corrected to', fn ($c) => "$c->new_value $c->who $c->reason"),
            Column::text('now', 'Take says now', fn ($c) => $c->row_no > 0 ? $c->found : ''),
            Column::text('so', 'So', fn ($c) => ucfirst($c->state->label()).", take $c->take"),
        ], $corrections);
    }

    private function load(int $id): string
    {
        return $this->page->all()->get($id)->name ?? '';
    }
}
