<?php

namespace App\View;

use App\Catalogue\CodeUse;
use App\Mapping\Shelf;
use App\Models\Load;
use App\Models\PassState;
use App\Models\Take;
use App\Models\TakeState;

/** The stops of the job in working order, and what is still open at each. */
final readonly class Route
{
    public function __construct(private Page $page)
    {
    }

    /** @return array<string, array{label: string, open: string, done: bool}> */
    public function stops(): array
    {
        $said = $this->prepared() + $this->run();
        $stops = [];
        foreach (Page::STOPS as $stop => $label) {
            [$open, $done] = $said[$stop];
            $stops[$stop] = ['label' => $label, 'open' => $open, 'done' => $done];
        }

        return $stops;
    }

    /** @return array<string, array{string, bool}> what is open before anything is loaded, and whether nothing is */
    private function prepared(): array
    {
        $entities = $this->page->migration->entities()->count();
        $loads = $this->page->orderError === null ? $this->page->definitions->loads()->count() : 0;
        $codes = $this->unmappedCodes();

        return [
            'sources' => $this->sources(),
            'target' => [Say::count($entities, 'entity', 'entities'), $entities > 0],
            'mapping' => $this->mapping($loads),
            'crosswalks' => [$codes > 0 ? Say::count($codes, 'code').' unmapped' : 'all codes mapped', $loads > 0 && $codes === 0],
            'order' => $this->order($loads),
        ];
    }

    /** @return array<string, array{string, bool}> of the round that is looked at */
    private function run(): array
    {
        [$rejected, $held, $pending, $unaccounted] = $this->page->open();
        $pass = $this->page->pass;
        $open = $rejected + $held + $pending;
        $round = $this->page->round;
        $figures = $unaccounted !== 0 ? number_format(abs($unaccounted)).' unaccounted' : Say::count($open, 'row').' open';

        return [
            'runs' => [
                $round === null ? 'no round yet'
                    : str_replace('-', ' ', $round->name).($pass === null ? '' : ", pass $pass->number"),
                $pass?->state === PassState::Finished,
            ],
            'rejects' => [
                $pass === null ? 'nothing loaded yet' : number_format($rejected).' rejected, '.number_format($held).' held',
                $pass !== null && $open === 0,
            ],
            'reconciliation' => [
                $pass === null ? 'no figures yet' : $figures,
                $pass !== null && $unaccounted === 0 && $open === 0,
            ],
        ];
    }

    /** @return array{string, bool} */
    private function sources(): array
    {
        $frozen = $this->page->migration->extracts()->whereNotNull('take_id')->count();
        $failed = Take::query()
            ->where('state', TakeState::Failed)
            ->whereHas('extract', fn ($q) => $q->whereNull('take_id'))
            ->whereRelation('extract.source', 'migration_id', $this->page->migration->id)
            ->count();
        $findings = $this->page->migration->openFindings();
        $open = $failed > 0 ? Say::count($failed, 'extract').' failed'
            : Say::count($frozen, 'extract').', '.Say::count($findings, 'finding');

        return [$open, $frozen > 0 && $failed === 0 && $findings === 0];
    }

    /** @return array{string, bool} */
    private function mapping(int $loads): array
    {
        $undecided = $unread = 0;
        if ($this->page->orderError === null) {
            $shelf = new Shelf($this->page->definitions);
            $unread = count(array_filter($shelf->unread(), fn ($e) => $e->not_loaded === null));
            $extracts = $this->page->definitions->loads()->unique('extract_id')->all();
            $undecided = array_sum(array_map(fn (Load $l) => count($shelf->undecided($l->extract)), $extracts));
        }
        $open = match (true) {
            $loads === 0 => 'no load yet',
            $undecided > 0 => Say::count($undecided, 'column').' undecided',
            $unread > 0 => Say::count($unread, 'extract').' undecided',
            default => 'all columns decided',
        };

        return [$open, $loads > 0 && $undecided + $unread === 0];
    }

    /** @return array{string, bool} */
    private function order(int $loads): array
    {
        if ($this->page->orderError !== null) {
            return ['a circle', false];
        }
        if ($loads === 0) {
            return ['nothing to order', false];
        }
        $order = $this->page->definitions->order();
        $waves = $order->waves === [] ? 0 : max($order->waves);

        return [Say::count($waves, 'wave').', '.count($order->deferred).' deferred', true];
    }

    private function unmappedCodes(): int
    {
        if ($this->page->orderError !== null) {
            return 0;
        }
        $use = new CodeUse($this->page->definitions);
        $crosswalks = $this->page->migration->codeCrosswalks()->with('entries')->get();

        return $crosswalks->sum(fn ($crosswalk) => $use->unmapped($crosswalk));
    }
}
