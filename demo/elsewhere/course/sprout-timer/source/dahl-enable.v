// one clock, everything by enables
module top (
    input  wire       clk,
    input  wire       key_n,
    output reg  [6:0] seg,
    output wire [1:0] sel,
    output wire       green,
    output wire       red
);
    localparam STEP = 20_000_000;   // 400 ms at 50 MHz
    localparam HOLD = 125_000;      // 2.5 ms a digit

    reg [24:0] step_cnt = 0;
    reg [16:0] hold_cnt = 0;
    reg        digit    = 0;
    reg [3:0]  left     = 4'd12;
    reg [1:0]  key_sync = 2'b11;

    wire step_now = (step_cnt == STEP - 1);
    wire hold_now = (hold_cnt == HOLD - 1);

    always @(posedge clk) begin
        key_sync <= {key_sync[0], key_n};
        hold_cnt <= hold_now ? 0 : hold_cnt + 1;
        if (hold_now) digit <= ~digit;

        if (!key_sync[1]) begin
            step_cnt <= 0;
            left     <= 4'd12;
        end else if (step_now) begin
            step_cnt <= 0;
            if (left != 0) left <= left - 1;
        end else
            step_cnt <= step_cnt + 1;
    end

    wire [3:0] tens  = (left >= 10) ? 4'd1 : 4'd15;
    wire [3:0] ones  = (left >= 10) ? left - 4'd10 : left;
    wire [3:0] value = digit ? tens : ones;

    always @(*) begin
        case (value)
            4'd0: seg = 7'b0111111;
            4'd1: seg = 7'b0000110;
            4'd2: seg = 7'b1011011;
            4'd3: seg = 7'b1001111;
            4'd4: seg = 7'b1100110;
            4'd5: seg = 7'b1101101;
            4'd6: seg = 7'b1111101;
            4'd7: seg = 7'b0000111;
            4'd8: seg = 7'b1111111;
            4'd9: seg = 7'b1101111;
            default: seg = 7'b0000000;
        endcase
    end

    assign sel   = digit ? 2'b01 : 2'b10;
    assign green = (left != 0);
    assign red   = (left == 0);
endmodule
