<?php

use App\Http\Controllers\AccountController;
use App\Http\Controllers\AccountsController;
use App\Http\Controllers\AgainController;
use App\Http\Controllers\AnswersController;
use App\Http\Controllers\ChangesController;
use App\Http\Controllers\CheckController;
use App\Http\Controllers\CodeHistoryController;
use App\Http\Controllers\ComparisonController;
use App\Http\Controllers\ConnectionsController;
use App\Http\Controllers\CorrectionsController;
use App\Http\Controllers\CrosswalksController;
use App\Http\Controllers\DraftsController;
use App\Http\Controllers\DryRunsController;
use App\Http\Controllers\ExtractController;
use App\Http\Controllers\FeedsController;
use App\Http\Controllers\FilesController;
use App\Http\Controllers\FindingsController;
use App\Http\Controllers\HistoryController;
use App\Http\Controllers\JoinController;
use App\Http\Controllers\LoadsController;
use App\Http\Controllers\LogController;
use App\Http\Controllers\LoginController;
use App\Http\Controllers\MappingController;
use App\Http\Controllers\MendingController;
use App\Http\Controllers\MigrationsController;
use App\Http\Controllers\OrderController;
use App\Http\Controllers\ParametersController;
use App\Http\Controllers\PeopleController;
use App\Http\Controllers\ProposalsController;
use App\Http\Controllers\QuestionsController;
use App\Http\Controllers\ReconciliationController;
use App\Http\Controllers\ReferencesController;
use App\Http\Controllers\RejectsController;
use App\Http\Controllers\RowsController;
use App\Http\Controllers\RulesTextController;
use App\Http\Controllers\RunsController;
use App\Http\Controllers\SecondFactorController;
use App\Http\Controllers\SecondStepController;
use App\Http\Controllers\SessionsController;
use App\Http\Controllers\ShelfController;
use App\Http\Controllers\SourcesController;
use App\Http\Controllers\SpecificationController;
use App\Http\Controllers\StatedController;
use App\Http\Controllers\TargetConnectionsController;
use App\Http\Controllers\TargetController;
use App\Http\Controllers\TotalsController;
use App\Http\Controllers\UploadController;
use App\Http\Controllers\VaultController;
use App\Http\Controllers\WaiversController;
use App\Http\Controllers\WorksController;
use App\Mending\Kind;
use Illuminate\Support\Facades\Route;

Route::middleware('guest')->group(function () {
    Route::get('/login', [LoginController::class, 'show'])->name('login');
    Route::post('/login', [LoginController::class, 'login']);
    Route::get('/login/second', [SecondStepController::class, 'show']);
    Route::post('/login/second', [SecondStepController::class, 'pass']);
    Route::get('/join/{token}', [JoinController::class, 'show'])->where('token', '[A-Za-z0-9]{48}');
    Route::post('/join/{token}', [JoinController::class, 'join'])->where('token', '[A-Za-z0-9]{48}');
});

Route::middleware('auth')->group(function () {
    Route::post('/logout', [LoginController::class, 'logout']);
    Route::get('/account', [AccountController::class, 'show']);
    Route::post('/account', [AccountController::class, 'name']);
    Route::post('/account/password', [AccountController::class, 'password']);
    Route::post('/account/others', [AccountController::class, 'leaveOthers']);
    Route::post('/account/confirm', [AccountController::class, 'confirm']);
    Route::delete('/account/sessions/{session}', [AccountController::class, 'leave'])->whereNumber('session');
    Route::get('/account/second', [SecondFactorController::class, 'show']);
    Route::post('/account/second', [SecondFactorController::class, 'confirm']);
    Route::post('/account/second/begin', [SecondFactorController::class, 'begin']);
    Route::post('/account/second/codes', [SecondFactorController::class, 'codes']);
    Route::delete('/account/second', [SecondFactorController::class, 'remove']);
    Route::get('/accounts', [AccountsController::class, 'index']);
    Route::post('/accounts', [AccountsController::class, 'invite']);
    Route::post('/accounts/appoint', [AccountsController::class, 'appoint']);
    Route::post('/accounts/{user}', [AccountsController::class, 'act'])->whereNumber('user');
    Route::get('/sessions', [SessionsController::class, 'index']);
    Route::post('/sessions', [SessionsController::class, 'rules'])->lists(second: 1);
    Route::delete('/sessions/{session}', [SessionsController::class, 'end'])->whereNumber('session');
    Route::get('/log', [LogController::class, 'ofInstallation']);
    Route::get('/', [MigrationsController::class, 'index']);
    Route::post('/migrations', [MigrationsController::class, 'store']);
    Route::post('/plans', [MigrationsController::class, 'import']);

    // What an address names below a migration is looked for in that migration alone.
    Route::prefix('/m/{migration}')->scopeBindings()
        ->whereNumber([
            'migration',
            'extract',
            'take',
            'load',
            'pass',
            'crosswalk',
            'code',
            'row',
            'position',
            'finding',
            'version',
            'parameter',
            'list',
            'reference',
            'connection',
            'source',
            'target',
            'work',
            'user',
            'dryRun',
            'id',
            'repair',
        ])
        ->group(function () {
            Route::get('/mend/{kind}/{id}', [MendingController::class, 'show'])->whereIn('kind', Kind::cases());
            Route::post('/mend/{kind}/{id}', [MendingController::class, 'update'])->whereIn('kind', Kind::cases());
            Route::delete('/mend/{kind}/{id}', [MendingController::class, 'destroy'])->whereIn('kind', Kind::cases());
            Route::get('/plan', [MigrationsController::class, 'export']);
            Route::get('/people', [PeopleController::class, 'index']);
            Route::post('/people', [PeopleController::class, 'invite']);
            Route::post('/people/{user}', [PeopleController::class, 'role']);
            Route::post('/people/{user}/link', [PeopleController::class, 'link']);
            Route::delete('/people/{user}', [PeopleController::class, 'leave']);
            Route::get('/log', [LogController::class, 'ofMigration']);
            Route::get('/draft', [DraftsController::class, 'show']);
            Route::put('/draft', [DraftsController::class, 'keep'])->lists(fields: 2);
            Route::get('/rows/{load}/{row}/beside/{other}/{otherRow}', [RowsController::class, 'beside'])
                ->whereNumber(['other', 'otherRow'])->withoutScopedBindings();
            Route::get('/trace', [RowsController::class, 'trace'])->name('trace');
            Route::get('/rows/{load}/{row}/family', [RowsController::class, 'family'])->whereNumber('row');
            Route::get('/rows/{load}/{row}', [RowsController::class, 'journey'])->name('journey');

            Route::post('/sources', [SourcesController::class, 'store']);
            Route::post('/sources/upload', [UploadController::class, 'store'])->lists(file: 1);
            Route::get('/sources/upload/{upload}', [UploadController::class, 'preview'])->lists(reader: 3);
            Route::post('/sources/upload/{upload}', [UploadController::class, 'freeze'])->lists(reader: 3);
            Route::delete('/sources/upload/{upload}', [VaultController::class, 'forget']);
            Route::get('/sources/files', [VaultController::class, 'index']);
            Route::delete('/sources/takes/{take}/file', [VaultController::class, 'remove']);
            Route::get('/sources/feeds', [FeedsController::class, 'create'])->lists(of: 1);
            Route::post('/sources/feeds', [FeedsController::class, 'store'])->lists(
                of: 1,
                left: 1,
                right: 1,
                distinct: 1,
            );
            Route::post('/sources/extracts/{extract}/multiply', [FeedsController::class, 'multiply']);
            Route::get('/sources/references', [ReferencesController::class, 'index']);
            Route::post('/sources/references/{reference}', [ReferencesController::class, 'decide']);
            Route::get('/sources/extracts/{extract}', [ExtractController::class, 'show']);
            Route::post('/sources/extracts/{extract}/again', [ExtractController::class, 'again']);
            Route::post('/sources/extracts/{extract}/covering', [StatedController::class, 'covering']);
            Route::post('/sources/takes/{take}/stated', [StatedController::class, 'take']);
            Route::post('/sources/extracts/{extract}/row-key', [ExtractController::class, 'rowKey'])->lists(columns: 1);
            Route::get('/sources/extracts/{extract}/columns/{position}', [ExtractController::class, 'column']);
            Route::get('/sources/extracts/{extract}/findings/{finding}', [ExtractController::class, 'those']);
            Route::post('/sources/extracts/{extract}/findings', [FindingsController::class, 'decide'])->lists(decisions: 2);
            Route::post('/sources/{source}/connections', [ConnectionsController::class, 'store']);
            Route::get('/sources/connections/{connection}', [ConnectionsController::class, 'show']);
            Route::get('/sources/connections/{connection}/table', [ConnectionsController::class, 'preview'])->lists(
                reader: 3,
            );
            Route::post('/sources/connections/{connection}/freeze', [ConnectionsController::class, 'freeze'])->lists(
                reader: 3,
                tables: 1,
            );
            Route::get('/sources/takes/{take}', [SourcesController::class, 'progress']);
            Route::post('/sources/takes/{take}/stop', [SourcesController::class, 'stop']);

            Route::get('/connections', [TargetConnectionsController::class, 'index']);
            Route::post('/connections', [TargetConnectionsController::class, 'store']);
            Route::post('/connections/{target}', [TargetConnectionsController::class, 'update']);
            Route::post('/connections/{target}/try', [TargetConnectionsController::class, 'attempt']);
            Route::delete('/connections/{target}', [TargetConnectionsController::class, 'destroy']);
            Route::post('/target/describe', [TargetController::class, 'describe']);
            Route::get('/target/tables', [TargetController::class, 'tables'])->lists(entities: 1);
            Route::post('/target/tables', [TargetController::class, 'create'])->lists(entities: 1);
            Route::post('/target/count', [TargetController::class, 'count']);
            Route::post('/target/read', [TargetController::class, 'read']);

            Route::post('/mapping/loads', [LoadsController::class, 'store']);
            Route::post('/mapping/loads/{load}', [LoadsController::class, 'settings'])->lists(
                key: 1,
                match_place: 1,
                match_field: 1,
                match_how: 1,
            );
            Route::post('/mapping/loads/{load}/check', [CheckController::class, 'start']);
            Route::get('/mapping/loads/{load}/check', [CheckController::class, 'show']);
            Route::get('/mapping/loads/{load}/check/{cause}', [CheckController::class, 'rows'])->whereNumber('cause');
            Route::post('/mapping/loads/{load}/check/stop', [CheckController::class, 'stop']);
            Route::get('/mapping/loads/{load}/history', [HistoryController::class, 'index']);
            Route::post('/mapping/loads/{load}/history/{version}', [HistoryController::class, 'restore']);
            Route::post('/mapping/loads/{load}/undo', [HistoryController::class, 'undo']);
            Route::get('/mapping/loads/{load}/news', [HistoryController::class, 'news']);
            Route::get('/mapping/loads/{load}/text', [RulesTextController::class, 'show']);
            Route::post('/mapping/loads/{load}/text/look', [RulesTextController::class, 'look']);
            Route::post('/mapping/loads/{load}/text', [RulesTextController::class, 'keep']);
            Route::get('/mapping/loads/{load}/record/{row}', [MappingController::class, 'record']);
            Route::post('/mapping/parameters', [ParametersController::class, 'store']);
            Route::delete('/mapping/parameters/{parameter}', [ParametersController::class, 'destroy']);
            Route::get('/mapping/document', [SpecificationController::class, 'show']);
            Route::get('/mapping/document.pdf', [SpecificationController::class, 'pdf']);
            Route::get('/mapping/document.xlsx', [SpecificationController::class, 'workbook']);
            Route::post('/mapping/document', [SpecificationController::class, 'readBack']);
            Route::get('/changes/{list}', [ChangesController::class, 'show']);
            Route::post('/changes/{list}', [ChangesController::class, 'apply'])->lists(accept: 1);
            Route::post('/mapping/loads/{load}/suggested', [LoadsController::class, 'suggested'])->lists(fields: 1);
            Route::post('/mapping/loads/{load}/map', [LoadsController::class, 'map']);
            Route::post('/mapping/loads/{load}/fields/{field}/preview', [MappingController::class, 'preview']);
            Route::post('/mapping/loads/{load}/fields/{field}/crosswalk', [MappingController::class, 'crosswalk']);
            Route::get('/mapping/loads/{load}/fields/{field}', [MappingController::class, 'line']);
            Route::put('/mapping/loads/{load}/fields/{field}', [MappingController::class, 'rule']);
            Route::post('/mapping/extracts/{extract}/not-loaded', [ShelfController::class, 'notLoaded']);
            Route::post('/mapping/extracts/{extract}/columns', [ShelfController::class, 'decide']);

            Route::post('/crosswalks/codes', [CrosswalksController::class, 'store']);
            Route::post('/crosswalks/codes/{crosswalk}', [CrosswalksController::class, 'entry']);
            Route::post('/crosswalks/codes/{crosswalk}/table', [CrosswalksController::class, 'table'])->lists(rows: 2);
            Route::post('/crosswalks/codes/{crosswalk}/otherwise', [CrosswalksController::class, 'otherwise']);
            Route::post('/crosswalks/codes/{crosswalk}/suggested', [CrosswalksController::class, 'suggested'])->lists(
                take: 1,
            );
            Route::get('/crosswalks/codes/{crosswalk}/history', [CodeHistoryController::class, 'index']);
            Route::post('/crosswalks/codes/{crosswalk}/history/{code}', [CodeHistoryController::class, 'restore']);
            Route::get('/crosswalks/codes/{crosswalk}/sheet', [CrosswalksController::class, 'sheet']);
            Route::post('/crosswalks/codes/{crosswalk}/sheet', [CrosswalksController::class, 'readBack']);

            Route::get('/works/{work}', [WorksController::class, 'show']);
            Route::get('/works/{work}/file', [WorksController::class, 'file']);
            Route::post('/works/{work}/stop', [WorksController::class, 'stop']);
            Route::post('/reconciliation/count', [ReconciliationController::class, 'count']);
            Route::post('/reconciliation/reckon', [ComparisonController::class, 'reckon']);
            Route::post('/reconciliation/differences', [ComparisonController::class, 'file']);
            Route::get('/totals/of/{number}', [TotalsController::class, 'show'])->whereNumber('number');
            Route::post('/totals/of/{number}/rows', [TotalsController::class, 'list'])->whereNumber('number');
            Route::get('/total', [TotalsController::class, 'create']);
            Route::post('/total', [TotalsController::class, 'store'])->lists(legacy: 1, group: 1, parent: 1);
            Route::post('/total/try', [TotalsController::class, 'try'])->lists(legacy: 1, group: 1, parent: 1);
            Route::get('/total/{total}', [TotalsController::class, 'edit']);
            Route::put('/total/{total}', [TotalsController::class, 'update'])->lists(legacy: 1, group: 1, parent: 1);
            Route::delete('/total/{total}', [TotalsController::class, 'destroy']);
            Route::get('/compared/{load}', [ComparisonController::class, 'rows']);
            Route::post('/runs/describe', [RunsController::class, 'describeRound']);

            Route::post('/runs/rounds', [RunsController::class, 'begin'])->lists(parameters: 1, without: 1);
            Route::post('/runs/end', [RunsController::class, 'end']);
            Route::post('/runs/records', [RunsController::class, 'records']);
            Route::post('/runs/again', [RunsController::class, 'retry']);
            Route::post('/runs/delta', [RunsController::class, 'delta']);
            Route::post('/runs/look', [RunsController::class, 'look']);
            Route::get('/runs/strip', [RunsController::class, 'strip']);
            Route::post('/passes/{pass}/pause', [RunsController::class, 'pause']);
            Route::post('/passes/{pass}/end', [RunsController::class, 'endPass']);
            Route::post('/passes/{pass}/resume', [RunsController::class, 'resume']);
            Route::post('/passes/{pass}/back-out', [RunsController::class, 'backOut']);

            Route::get('/to-answer', [QuestionsController::class, 'index']);
            Route::post('/to-answer', [QuestionsController::class, 'store'])->lists(answers: 1);
            Route::post('/rejects/files', [FilesController::class, 'store']);
            Route::get('/rejects/files/{file}', [FilesController::class, 'show']);
            Route::get('/rejects/files/{file}/fetch', [FilesController::class, 'fetch']);
            Route::post('/rejects/files/{file}', [FilesController::class, 'update']);
            Route::post('/rejects/annotated', [FilesController::class, 'annotate']);
            Route::post('/rejects/answers', [AnswersController::class, 'store']);
            Route::get('/rejects/answers/{answer}', [AnswersController::class, 'show']);
            Route::post('/rejects/answers/{answer}/columns', [AnswersController::class, 'columns'])->lists(is: 2);
            Route::post('/rejects/answers/{answer}/try', [AnswersController::class, 'try'])->lists(changes: 1);
            Route::post('/rejects/answers/{answer}/leave', [AnswersController::class, 'leave'])->lists(changes: 1);
            Route::post('/rejects/repairs/{repair}/undo', [ProposalsController::class, 'undo']);
            Route::get('/rejects/loads/{load}/default/{field}', [ProposalsController::class, 'parent']);
            Route::post('/rejects/loads/{load}/default/{field}', [ProposalsController::class, 'makeParent'])->lists(values: 1);
            Route::post('/rejects/loads/{load}/give', [RejectsController::class, 'give']);
            Route::post('/rejects/loads/{load}/try', [ProposalsController::class, 'store'])->lists(causes: 1, olds: 1, cells: 1);
            Route::post('/dry-runs/{dryRun}/keep', [ProposalsController::class, 'keep']);
            Route::get('/dry-runs/{dryRun}', [DryRunsController::class, 'show']);
            Route::post('/dry-runs/{dryRun}/stop', [DryRunsController::class, 'stop']);
            Route::post('/dry-runs', [DryRunsController::class, 'store'])->lists(parameters: 1, without: 1);
            Route::post('/rejects/loads/{load}/take-back', [WaiversController::class, 'takeBack']);
            Route::post('/rejects/loads/{load}/ask', [WaiversController::class, 'ask']);
            Route::post('/compared/{load}/again', [AgainController::class, 'ask']);
            Route::post('/rejects/loads/{load}/references', [WaiversController::class, 'references']);
            Route::get('/rejects/loads/{load}/rows/{row}/whole', [CorrectionsController::class, 'editRow']);
            Route::post('/rejects/waivers/confirm', [WaiversController::class, 'confirm']);
            Route::post('/rejects/corrections', [CorrectionsController::class, 'decide'])->lists(corrections: 1);

            Route::get('/gaps/{entity?}', [RowsController::class, 'gaps']);
            Route::post('/rows/{entity?}', [RowsController::class, 'file']);
            Route::get('/rows/{entity?}', [RowsController::class, 'index']);
            Route::get('/sources/{entity?}', [SourcesController::class, 'index']);
            Route::get('/target/{entity?}', [TargetController::class, 'index']);
            Route::get('/mapping/{entity?}', [MappingController::class, 'index']);
            Route::get('/crosswalks/{entity?}', [CrosswalksController::class, 'index']);
            Route::get('/order/{entity?}', [OrderController::class, 'index']);
            Route::get('/runs/{entity?}', [RunsController::class, 'index']);
            Route::get('/rejects/{entity?}', [RejectsController::class, 'index']);
            Route::get('/totals/{entity?}', [TotalsController::class, 'index']);
            Route::get('/totals-stated/{entity?}', [TotalsController::class, 'stated']);
            Route::get('/comparison/{entity?}', [ComparisonController::class, 'index']);
            Route::get('/reconciliation/{entity?}', [ReconciliationController::class, 'index']);
        });
});
