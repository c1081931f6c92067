<?php

namespace App\View;

use App\Models\PassState;

/** The stops of the job in working order, and what is still open at each. */
final readonly class Route
{
    public function __construct(private Page $page)
    {
    }

    /** @return array<string, array{label: string, open: string, done: bool}> */
    public function stops(): array
    {
        $said = $this->page->overview->stops + $this->run();
        $stops = [];
        foreach (Page::STOPS as $stop => $label) {
            [$open, $done] = $said[$stop];
            $stops[$stop] = ['label' => $label, 'open' => $open, 'done' => $done];
        }

        return $stops;
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
}
