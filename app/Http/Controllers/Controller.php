<?php

namespace App\Http\Controllers;

use App\View\Tables\Table;
use Illuminate\Contracts\View\View;
use Illuminate\Foundation\Auth\Access\AuthorizesRequests;
use Symfony\Component\HttpFoundation\StreamedResponse;

abstract class Controller
{
    use AuthorizesRequests;

    /**
     * A screen with tables; where one of them is asked for as .csv, that instead.
     *
     * @param  array<string, mixed>  $data
     */
    protected function screen(string $view, array $data): View|StreamedResponse
    {
        foreach ($data as $table) {
            if ($table instanceof Table && $table->isAskedAsCsv()) {
                return $table->csv();
            }
        }

        return view($view, $data);
    }
}
