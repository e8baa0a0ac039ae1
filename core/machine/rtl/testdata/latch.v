// What latches keep: a case without a default, a transparent latch behind a counter, one of 70 bits with a reset.
module top(input clk, input rst, input hold, output reg [6:0] seg, output [1:0] lamp);
  reg [15:0] pause = 0;
  reg [3:0] value = 0;
  always @(posedge clk) begin
    pause <= pause == 49_999 ? 0 : pause + 1;
    if (pause == 49_999) value <= value + 1;
  end
  always @* case (value)
    0: seg = 7'h3f;
    1: seg = 7'h06;
    3: seg = 7'h4f;
    4: seg = 7'h66;
    9: seg = 7'h6f;
  endcase
  reg [15:0] kept;
  always @* if (hold) kept = pause;
  reg [69:0] wide;
  always @* if (rst) wide = 0; else if (value[0]) wide = {54'd0, value, value, value, value};
  assign lamp = {wide[13], kept[12]};
endmodule
