<?php

namespace App\Http\Controllers;

use App\Models\Draft;
use App\Models\Migration;
use App\Models\User;
use App\Support\When;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\ValidationException;

/** What is typed on a page and not sent yet: each person's own, and nobody else's. */
final class DraftsController extends Controller
{
    /** Characters kept of one page. */
    private const MOST = 200_000;

    private const FIELDS = 500;

    public function show(Request $request, Migration $migration, #[CurrentUser] User $user): JsonResponse
    {
        $this->authorize('view', $migration);
        $data = $request->validate(['page' => 'required|string|max:250']);
        $draft = Draft::of($migration, $user, $data['page']);

        return response()->json([
            'fields' => (object) ($draft->fields ?? []),
            'at' => $draft === null ? null : When::said($draft->updated_at, 'short'),
        ]);
    }

    public function keep(Request $request, Migration $migration, #[CurrentUser] User $user): JsonResponse
    {
        $this->authorize('view', $migration);
        $page = $request->validate(['page' => ['required', 'string', 'max:250', 'regex:~\A/m/'.$migration->id.'/[\x21-\x7E]*\z~']])['page'];
        // Names hold dots and stars, and blanks somebody typed are not trimmed: it is taken from what was sent itself.
        $sent = json_decode($request->getContent(), true)['fields'] ?? [];
        $fields = [];
        foreach (is_array($sent) && count($sent) <= self::FIELDS ? $sent : self::refuse() as $key => $pair) {
            $isPair = is_array($pair) && array_is_list($pair) && count($pair) === 2 && is_string($pair[0]) && is_string($pair[1]);
            $fields[(string) $key] = $isPair ? [$pair[0], $pair[1]] : self::refuse();
        }
        if (strlen(json_encode($fields, JSON_THROW_ON_ERROR)) > self::MOST) {
            self::refuse();
        }
        Draft::keep($migration, $user, $page, $fields);

        return response()->json(['kept' => count($fields)]);
    }

    private static function refuse(): never
    {
        throw ValidationException::withMessages(['fields' => 'That is not, or is more than, what a page keeps unsent.']);
    }
}
