<?php

namespace App\Http\Controllers;

use App\Http\Requests\RuleLine;
use App\Mapping\RuleBook;
use App\Mapping\RuleConflict;
use App\Mapping\RuleSheet;
use App\Mapping\Shelf;
use App\Models\Audit;
use App\Models\Load;
use App\Models\Migration;
use App\Staging\Corrections;
use App\Staging\StagedRows;
use App\View\MappingSheet;
use App\View\Page;
use App\View\RecordSent;
use App\View\Tables\MappingTables;
use Baggage\Core\Expressions\ExpressionError;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Symfony\Component\HttpFoundation\StreamedResponse;

final class MappingController extends Controller
{
    public function index(Request $request, Migration $migration, ?string $entity = null): View|StreamedResponse
    {
        $this->authorize('view', $migration);
        $page = Page::of($migration, 'mapping', $entity);
        $shelf = new Shelf($page->definitions);
        if ($page->entity === null) {
            $unread = $shelf->unread();

            return $this->screen('mapping.all', [
                'page' => $page,
                'unread' => $unread,
                'leftOver' => MappingTables::unread($request, $unread),
                'parameters' => $migration->parameters()->orderBy('name')->get(),
                'loads' => MappingTables::loads($request, $page->loads()),
            ]);
        }
        $listed = $page->loads()->firstWhere('id', $request->integer('load')) ?? $page->loads()->first();
        $load = $listed === null ? null : $migration->loads()->find($listed->id);

        return $load === null
            ? view('mapping.none', ['page' => $page, 'extracts' => $page->overview->extracts])
            : view('mapping.sheet', (new MappingSheet($page, $page->definitions->one($load, isStudied: true)))->data($request, $shelf));
    }

    /** Before → after of an expression that is still being typed. */
    public function preview(Request $request, Migration $migration, Load $load, string $field): View
    {
        $this->authorize('view', $migration);
        $page = Page::ofLoad($migration, 'mapping', $load);
        $load = $page->definitions->one($load);
        $described = $load->entity->described()->writable()[$field] ?? abort(404);
        $sheet = RuleSheet::of($page->definitions, $load, RuleSheet::rows($load, $request->input('rows')));

        return view('mapping.samples', [
            'line' => $sheet->line(
                $described,
                $load->rules->firstWhere('field', $field),
                (string) $request->input('expression'),
            ),
            'sheet' => $sheet,
        ]);
    }

    /** One line of the sheet as it stands now. */
    public function line(Request $request, Migration $migration, Load $load, string $field): View
    {
        $this->authorize('view', $migration);
        $described = $load->entity->described()->writable()[$field] ?? abort(404);
        $page = Page::ofLoad($migration, 'mapping', $load);
        $load = $page->definitions->one($load);
        $sheet = RuleSheet::of($page->definitions, $load, RuleSheet::rows($load, $request->input('rows')));
        $rule = $load->rules->firstWhere('field', $field);

        return view('mapping.line', [
            'line' => $sheet->line($described, $rule, (string) $rule?->expression),
            'sheet' => $sheet,
            'page' => $page,
            'told' => null,
            'conflict' => null,
        ]);
    }

    /** The exact record that would be sent for a row, beside the row. */
    public function record(Request $request, Migration $migration, Load $load, int $row): View
    {
        $this->authorize('view', $migration);
        $page = Page::ofLoad($migration, 'mapping', $load);
        $load = $page->definitions->one($load);
        $columns = $load->extract->tidyColumns();
        $cells = StagedRows::ofLoad($load)->numbered([$row])[
                $row
            ] ?? abort(404);
        $data = RecordSent::of($page, $load, $row, $cells) + [
            'page' => $page,
            'load' => $load,
            'row' => $row,
            'rows' => (int) $load->extract->take?->rows,
            'columns' => $columns->all,
            'cells' => $cells,
            'corrected' => Corrections::ofRow((int) $load->extract->take_id, $row) !== [],
        ];

        return view($request->hasHeader('HX-Request') ? 'mapping.record' : 'mapping.record-page', $data);
    }

    /** A crosswalk that the rule names and nobody has made: it is there then, with the values of its column. */
    public function crosswalk(Request $request, Migration $migration, Load $load, string $field): View
    {
        $this->authorize('work', $migration);
        $name = (string) $request->validate(['crosswalk' => 'required|string|max:100'])['crosswalk'];
        if (! $migration->codeCrosswalks()->where('name', $name)->exists()) {
            $migration->codeCrosswalks()->create(['name' => $name]);
            Audit::note($migration->id, "added code crosswalk $name");
        }

        return $this->line($request, $migration, $load, $field);
    }

    public function rule(RuleLine $request, Migration $migration, Load $load, string $field, RuleBook $book): Response
    {
        $described = $load->entity->described()->writable()[$field] ?? abort(404);
        $told = $conflict = null;
        $status = 200;
        $expression = (string) $request->input('expression');
        try {
            $before = $load->rules()->where('field', $field)->first();
            $book->write(
                $load,
                $field,
                $request->integer('version'),
                $expression,
                $request->filledText('empty_reason'),
                $request->has('note') ? $request->filledText('note') : $before?->note,
                $request->user(),
            );
            $told = 'Kept.';
        } catch (RuleConflict $e) {
            $conflict = $e;
            $status = 409;
        } catch (ExpressionError) {
            // The line shows what is wrong, and nothing was kept.
            $status = 422;
        }
        $page = Page::ofLoad($migration, 'mapping', $load);
        $load = $page->definitions->one($load);
        $sheet = RuleSheet::of($page->definitions, $load, RuleSheet::rows($load, $request->input('rows')));
        $rule = $load->rules->firstWhere('field', $field);
        $line = $sheet->line($described, $rule, $status === 200 ? (string) $rule?->expression : $expression);
        $shown = ['line' => $line, 'sheet' => $sheet, 'page' => $page, 'told' => $told, 'conflict' => $conflict];

        return response(view('mapping.line', $shown), $status);
    }
}
